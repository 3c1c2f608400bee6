"""Gradient: colours that change along a line or outwards from a point."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.adjust.kind import Coloured, PointWise, empty_like
from glyptic.params import Choice, GradientStops, Point, Schema, Values
from glyptic.pixels.compiled import Planes
from glyptic.pixels.shapes import Frame, along, around


def _two_places(values: Values) -> tuple[str, str] | None:
    return ("to", "must differ from 'from'") if values["from"] == values["to"] else None


class Gradient(PointWise):
    """Colour and alpha interpolated separately between stops, in encoded values (computation.md, Fills)."""

    name = "gradient"
    title = "Gradient"
    purpose = "Fills & shapes"
    summary = "Colours that change along a line or outwards from a point."
    schema = Schema(
        {
            "shape": Choice(label="Shape", options=("linear", "radial"), default="linear",
                            help="Along a line, or outwards from a point."),
            "from": Point(label="From", help="Where the first stop lies; for radial, the middle."),
            "to": Point(label="To", help="Where the last stop lies; for radial, a point on the rim."),
            "stops": GradientStops(label="Stops", help="The colours along the way."),
        },
        checks=(_two_places,),
    )  # fmt: skip

    def starting(self, width: int, height: int) -> dict[str, Any]:
        stops = [{"at": 0, "colour": [0, 0, 0], "alpha": 0.6}, {"at": 1, "colour": [0, 0, 0], "alpha": 0}]
        return {"from": [width / 2, 0], "to": [width / 2, height / 2], "stops": stops}

    def is_neutral(self, settings: Values) -> bool:
        return all(stop["alpha"] == 0 for stop in settings["stops"])

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        draw = along if settings["shape"] == "linear" else around
        u = draw(frame, settings["from"], settings["to"])
        at = [stop["at"] for stop in settings["stops"]]
        out = empty_like(px)
        for c in range(3):
            out[c] = np.interp(u, at, [stop["colour"][c] for stop in settings["stops"]])
        alpha = np.interp(u, at, [stop["alpha"] for stop in settings["stops"]]).astype(np.float32)
        return Coloured(out, alpha)


GRADIENT = Gradient()
