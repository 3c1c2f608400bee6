"""Black & white: each hue darker or lighter as it becomes grey."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy import float32

from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Real, Schema, Values
from glyptic.params.scalar import share
from glyptic.pixels.compiled import Plane, Planes, Row, kernel
from glyptic.pixels.hues import apart
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import hue_of
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch, eased
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import enc
from glyptic.pixels.vector import ONE, clamp01, exp2, root

HUES = {"red": 29.0, "yellow": 110.0, "green": 142.0, "cyan": 195.0, "blue": 264.0, "magenta": 328.0}
"""What is called by these names, by its hue in OKLCh, in degrees."""
FULL = float32(0.25)
"""The chroma from which a colour counts fully."""
MOST, REACH = 3.0, 4.0
"""The most stops a hue goes either way, and how many a drag over the whole range is."""
NOTHING = float32(0)


@kernel
def _to_grey(px: Planes, alpha: Plane, strength: float, hues: Row, gaps: Row, stops: Row, of: Primaries) -> None:
    """gaps: degrees from each hue to the next on the ring."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            _, a, b = oklab(red, green, blue, of)
            hue = hue_of(a, b)
            more = NOTHING
            for k in range(6):
                before = gaps[k - 1] if k > 0 else gaps[5]
                away = hue - hues[k]
                away = away - float32(360) if away > float32(180) else away
                away = away + float32(360) if away < float32(-180) else away
                gap = gaps[k] if away > NOTHING else before
                more += stops[k] * (ONE - eased(clamp01(apart(hue, hues[k]) / gap)))
            y = luminance(red, green, blue, of) * exp2(more * clamp01(root(a * a + b * b) / FULL))
            share = alpha[i, j] * strength
            grey = enc(y)
            px[0, i, j] = red + share * (grey - red)
            px[1, i, j] = green + share * (grey - green)
            px[2, i, j] = blue + share * (grey - blue)


class BlackWhite(PointWise):
    """Grey of luminance Y · 2^(s · min(C/0.25, 1)), mixed in by strength: s the stops of the two hues a colour lies
    between on the ring of OKLCh (CSS Color 4), mixed by a smooth step, so that the weights add up to 1. What is grey
    already keeps its tone."""

    name = "black-white"
    title = "Black & white"
    purpose = "Colour"
    rank = 7
    summary = "Turns colour into grey, each hue lighter or darker: a blue sky down, skin up."
    picks = (
        Aid("hue", "Hand on picture", "Press on a colour and drag up to lighten it, down to darken it.", drags=True),
    )
    sample = {"strength": 1, "red": 0.8, "blue": -1.2}
    schema = Schema(
        {
            "strength": share("Strength", "At 0 % the colours stay; at 100 % everything is grey.", 0.0),
            **{
                name: Real(label=f"{name.title()}s", help=f"How much lighter or darker {name} becomes.", default=0.0,
                           unit="stops", low=-MOST, high=MOST, step=0.05, soft_low=-2, soft_high=2)
                for name in HUES
            },
        }
    )  # fmt: skip

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        hue = seen.hue
        nearest = min(HUES, key=lambda name: abs((hue - HUES[name] + 180) % 360 - 180))
        stops = min(max(settings[nearest] + REACH * by, -MOST), MOST)
        return {nearest: round(stops, 2), "strength": settings["strength"] or 1.0}

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["strength"] == 0)

    def ready(self, settings: Values, space: Space) -> tuple[float32 | Row | Primaries, ...]:
        ring = np.array(list(HUES.values()))
        gaps = np.diff(ring, append=ring[0] + 360)
        stops = np.array([settings[name] for name in HUES])
        rows = ((ring + 180) % 360 - 180, gaps, stops)
        return float32(settings["strength"]), *(np.asarray(row, np.float32) for row in rows), space.of

    def lay(self, ready: tuple[float32 | Row | Primaries, ...], px: Planes, alpha: Plane, patch: Patch) -> None:
        _to_grey(px, alpha, *ready)


BLACK_WHITE = BlackWhite()
