"""Colour range: what is near a colour."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.masks.part import OF, Looked
from glyptic.params import Colour, Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.shapes import EDGE, NOTHING, smoothstep
from glyptic.pixels.vector import ONE, root


@kernel
def _near(px: Planes, r: float, g: float, b: float, tolerance: float, softness: float, out: Plane) -> None:
    l0, a0, b0 = oklab(r, g, b)
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            l1, a1, b1 = oklab(px[0, i, j], px[1, i, j], px[2, i, j])
            dl, da, db = l1 - l0, a1 - a0, b1 - b0
            distance = root(dl * dl + da * da + db * db)
            soft = ONE - smoothstep(tolerance, tolerance + softness, distance)
            hard = ONE if distance <= tolerance + EDGE else NOTHING
            out[i, j] = soft if softness > NOTHING else hard


class ColourRange(Looked):
    """1 − smoothstep(tolerance, tolerance + softness, ΔE), ΔE the Euclidean distance in Oklab."""

    name = "colour"
    title = "Colour range"
    summary = "What is near a colour."
    schema = Schema(
        {
            "colour": Colour(label="Colour", help="The colour looked for."),
            "tolerance": Real(label="Tolerance", help="How far in Oklab a colour may lie and still count.",
                              default=0.1, low=0, high=10, soft_high=0.5, step=0.005),
            "softness": Real(label="Softness", help="Over how much more distance it fades.", default=0.0,
                             low=0, high=10, soft_high=0.5, step=0.005),
            "of": OF,
        }
    )  # fmt: skip

    def picked(self, settings: Values, seen: tuple[float, float, float, float]) -> dict[str, Any]:
        return {"colour": [round(min(max(v, 0.0), 1.0), 4) for v in seen[:3]]}

    def coverage_of(self, settings: Values, px: Planes) -> Plane:
        out = np.empty(px.shape[1:], np.float32)
        r, g, b = (np.float32(value) for value in settings["colour"])
        _near(px, r, g, b, np.float32(settings["tolerance"]), np.float32(settings["softness"]), out)
        return out


COLOUR = ColourRange()
