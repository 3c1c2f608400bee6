"""Gradient: colours that change along a line or outwards from a point."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import PointWise
from glyptic.params import Choice, GradientStops, Point, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.shapes import Patch, along, around
from glyptic.pixels.spaces import Space
from glyptic.pixels.vector import clamp01


def _two_places(values: Values) -> tuple[str, str] | None:
    return ("to", "must differ from 'from'") if values["from"] == values["to"] else None


STEEPEST = 1e9
"""Two stops at one place make an edge: a ramp this steep."""


@kernel
def _alpha(u: Plane, first: NDArray[np.float32], ramps: NDArray[np.float32], out: Plane) -> None:
    for i in range(u.shape[0]):
        for j in range(u.shape[1]):
            out[i, j] = first[3]
        for s in range(ramps.shape[0]):
            at, per_width, rise = ramps[s, 0], ramps[s, 1], ramps[s, 5]
            for j in range(u.shape[1]):
                out[i, j] += rise * clamp01((u[i, j] - at) * per_width)


@kernel
def _lay(px: Planes, alpha: Plane, u: Plane, first: NDArray[np.float32], ramps: NDArray[np.float32]) -> None:
    w = u.shape[1]
    colour = np.empty(w, np.float32)
    for i in range(u.shape[0]):
        for c in range(3):
            for j in range(w):
                colour[j] = first[c]
            for s in range(ramps.shape[0]):
                at, per_width, rise = ramps[s, 0], ramps[s, 1], ramps[s, 2 + c]
                for j in range(w):
                    colour[j] += rise * clamp01((u[i, j] - at) * per_width)
            for j in range(w):
                px[c, i, j] += alpha[i, j] * (colour[j] - px[c, i, j])


def _places(stops: Sequence[Values]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Where the colours are given, and (r, g, b, alpha) there: at the stops, and halfway between two of them wherever
    the middle does not lie halfway by itself."""
    places = [(stops[0]["at"], _value(stops[0]))]
    for a, b in pairwise(stops):
        if a["middle"] != EVEN_MIDDLE:
            places.append((a["at"] + a["middle"] * (b["at"] - a["at"]), (_value(a) + _value(b)) / 2))
        places.append((b["at"], _value(b)))
    return np.array([at for at, _ in places]), np.array([value for _, value in places])


def _value(stop: Values) -> NDArray[np.float64]:
    return np.array([*stop["colour"], stop["alpha"]])


EVEN_MIDDLE = 0.5


@dataclass(frozen=True)
class Laid:
    """A gradient ready to be laid: r, g, b, alpha before the first stop, and (at, 1/width, r, g, b, alpha rise) of
    the ramp that follows each stop."""

    draw: Callable[[Patch, tuple[float, float], tuple[float, float]], Plane]
    start: tuple[float, float]
    end: tuple[float, float]
    first: NDArray[np.float32]
    ramps: NDArray[np.float32]


class Gradient(PointWise):
    """Colour and alpha interpolated separately between stops, in encoded values (computation.md, Fills)."""

    name = "gradient"
    title = "Gradient"
    purpose = "Fills & shapes"
    channelwise = True
    covers = True
    rank = 2
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

    def sampled(self, width: int, height: int) -> dict[str, Any]:
        return {"settings": self.starting(width, height)}

    def is_neutral(self, settings: Values) -> bool:
        return all(stop["alpha"] == 0 for stop in settings["stops"])

    def ready(self, settings: Values, space: Space) -> Laid:
        at, values = _places(settings["stops"])
        with np.errstate(divide="ignore"):
            per_width = np.minimum(1 / np.diff(at), STEEPEST)
        draw = along if settings["shape"] == "linear" else around
        ramps = np.column_stack([at[:-1], per_width, np.diff(values, axis=0)])
        return Laid(draw, settings["from"], settings["to"], values[0].astype(np.float32), ramps.astype(np.float32))

    def veil(self, ready: Laid, patch: Patch) -> Plane:
        out = np.empty(patch.shape, np.float32)
        _alpha(ready.draw(patch, ready.start, ready.end), ready.first, ready.ramps, out)
        return out

    def lay(self, ready: Laid, px: Planes, alpha: Plane, patch: Patch) -> None:
        _lay(px, alpha, ready.draw(patch, ready.start, ready.end), ready.first, ready.ramps)


GRADIENT = Gradient()
