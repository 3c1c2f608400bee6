"""Vibrance: saturation for what has little of it."""

from __future__ import annotations

from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.params import Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fit, lay_row, rows
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Primaries, Space
from glyptic.pixels.vector import clamp01, root

FULL = float32(0.3)
"""The chroma of Oklab from which a colour counts as saturated: about that of the purest a common screen shows."""
ONE = float32(1)


@formula
def livelier(chroma: float, vibrance: float) -> float:
    """What the chroma is multiplied by."""
    lacking = ONE - clamp01(chroma / FULL)
    return ONE + vibrance * lacking * lacking


@kernel
def _enliven(px: Planes, alpha: Plane, vibrance: float, saturation: float, of: Primaries) -> None:
    l, a, b, _, spare = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            light, x, y = oklab(px[0, i, j], px[1, i, j], px[2, i, j], of)
            more = livelier(root(x * x + y * y), vibrance) * saturation
            l[j], a[j], b[j] = light, x * more, y * more
        fit(l, a, b, spare, of)
        lay_row(px, i, l, a, b, alpha[i])


class Vibrance(PointWise):
    """C' = C · (1 + vibrance · (1 − min(C/0.3, 1))²) · (1 + saturation) in OKLCh (CSS Color 4), brought into range by
    lowering chroma. What lies beyond 0..1 keeps its distance to the range."""

    name = "vibrance"
    title = "Vibrance"
    purpose = "Colour"
    rank = 3
    summary = "Gives colour to what is pale and leaves alone what is strong already; greys stay grey."
    sample = {"vibrance": 0.9}
    schema = Schema(
        {
            "vibrance": Real(label="Vibrance", help="Works most on pale colours.", default=0.0, unit="%",
                             low=-1, high=2, step=0.01, soft_low=-1, soft_high=1),
            "saturation": Real(label="Saturation", help="Works on all colours alike.", default=0.0, unit="%",
                               low=-1, high=2, step=0.01, soft_low=-1, soft_high=1),
        }
    )  # fmt: skip

    def ready(self, settings: Values, space: Space) -> tuple[float32 | Primaries, ...]:
        return float32(settings["vibrance"]), float32(1 + settings["saturation"]), space.of

    def lay(self, ready: tuple[float32 | Primaries, ...], px: Planes, alpha: Plane, patch: Patch) -> None:
        _enliven(px, alpha, *ready)


VIBRANCE = Vibrance()
