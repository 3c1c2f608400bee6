"""Colour range: what is near a colour."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from glyptic.masks.part import OF, Looked
from glyptic.params import Colour, Colours, Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import EDGE, NOTHING, smoothstep
from glyptic.pixels.spaces import Primaries, Space
from glyptic.pixels.vector import ONE, root


@kernel
def _near(
    px: Planes, of: Primaries, r: float, g: float, b: float, tolerance: float, softness: float, out: Plane
) -> None:
    l0, a0, b0 = oklab(r, g, b, of)
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            l1, a1, b1 = oklab(px[0, i, j], px[1, i, j], px[2, i, j], of)
            dl, da, db = l1 - l0, a1 - a0, b1 - b0
            distance = root(dl * dl + da * da + db * db)
            soft = ONE - smoothstep(tolerance, tolerance + softness, distance)
            hard = ONE if distance <= tolerance + EDGE else NOTHING
            out[i, j] = soft if softness > NOTHING else hard


MOST_COLOURS = 11
"""Besides the first one."""


class ColourRange(Looked):
    """1 − smoothstep(tolerance, tolerance + softness, ΔE), ΔE the Euclidean distance in Oklab to the nearest of the
    colours."""

    name = "colour"
    title = "Colour range"
    summary = "What is near a colour."
    starting: ClassVar[dict[str, Any]] = {"colour": [0.5, 0.5, 0.5], "tolerance": 0.1, "softness": 0.1}
    schema = Schema(
        {
            "colour": Colour(label="Colour", help="The colour looked for."),
            "also": Colours(label="And near", help="More colours that are looked for.", default=(), most=MOST_COLOURS),
            "tolerance": Real(label="Tolerance", help="How far in Oklab a colour may lie and still count.",
                              default=0.1, low=0, high=10, soft_high=0.5, step=0.005),
            "softness": Real(label="Softness", help="Over how much more distance it fades.", default=0.0,
                             low=0, high=10, soft_high=0.5, step=0.005),
            "of": OF,
        }
    )  # fmt: skip

    def picked(self, settings: Values, seen: Seen, more: bool) -> dict[str, Any]:
        colour = [round(min(max(v, 0.0), 1.0), 4) for v in seen[:3]]
        if not more:
            return {"colour": colour, "also": []}
        return {"also": [*(list(one) for one in settings["also"]), colour][-MOST_COLOURS:]}

    def coverage_of(self, settings: Values, px: Planes, space: Space) -> Plane:
        tolerance, softness = np.float32(settings["tolerance"]), np.float32(settings["softness"])
        out = np.empty(px.shape[1:], np.float32)
        other = np.empty_like(out)
        for i, colour in enumerate((settings["colour"], *settings["also"])):
            r, g, b = (np.float32(value) for value in colour)
            _near(px, space.of, r, g, b, tolerance, softness, other if i else out)
            if i:
                np.maximum(out, other, out=out)
        return out


COLOUR = ColourRange()
