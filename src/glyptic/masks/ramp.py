"""Ramp: a linear fall-off."""

from __future__ import annotations

import numpy as np

from glyptic.masks.part import Drawn, at_corners
from glyptic.params import Choice, Point, Schema, Values
from glyptic.pixels.compiled import Plane, kernel
from glyptic.pixels.shapes import Patch, along, eased
from glyptic.pixels.vector import ONE


@kernel
def _fall(u: Plane, smooth: bool) -> None:
    for i in range(u.shape[0]):
        for j in range(u.shape[1]):
            u[i, j] = ONE - (eased(u[i, j]) if smooth else u[i, j])


def _two_places(values: Values) -> tuple[str, str] | None:
    return ("to", "must differ from 'from'") if values["from"] == values["to"] else None


class Ramp(Drawn):
    """Full at `from`, none at `to`: 1 − u, or 1 − smoothstep(0, 1, u)."""

    name = "ramp"
    title = "Ramp"
    summary = "A straight fall-off drawn across the picture."
    schema = Schema(
        {
            "from": Point(label="Full at", help="Where the part covers fully."),
            "to": Point(label="None at", help="Where it covers no longer."),
            "ease": Choice(label="Fall", options=("linear", "smooth"), default="smooth", help="How it falls off."),
        },
        checks=(_two_places,),
    )

    def coverage(self, settings: Values, patch: Patch) -> Plane:
        u = along(patch, settings["from"], settings["to"])
        _fall(u, settings["ease"] == "smooth")
        return np.asarray(u)

    def known(self, settings: Values, patch: Patch) -> float | None:
        """It falls in one direction: what the corners have is what there is."""
        found = set(at_corners(self, settings, patch))
        return found.pop() if found in ({0.0}, {1.0}) else None


RAMP = Ramp()
