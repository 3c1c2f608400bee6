"""Oklab (B. Ottosson 2020, as in CSS Color 4, sections 9 and 18) of encoded values, by way of XYZ."""

from __future__ import annotations

from numpy import float32

from glyptic.pixels.compiled import formula
from glyptic.pixels.spaces import Primaries
from glyptic.pixels.transfer import lin_positive
from glyptic.pixels.vector import clamp01, cube_root

LL, LM, LS = float32(0.2104542683093140), float32(0.7936177747023054), float32(0.0040720430116193)
AL, AM, AS = float32(1.9779985324311684), float32(2.4285922420485799), float32(0.4505937096174110)
BL, BM, BS = float32(0.0259040424655478), float32(0.7827717124575296), float32(0.8086757549230774)


@formula
def oklab(r: float, g: float, b: float, of: Primaries) -> tuple[float, float, float]:
    """L, a, b of encoded r, g, b clamped to 0..1."""
    r, g, b = lin_positive(clamp01(r)), lin_positive(clamp01(g)), lin_positive(clamp01(b))
    l = cube_root(of.long_r * r + of.long_g * g + of.long_b * b)
    m = cube_root(of.medium_r * r + of.medium_g * g + of.medium_b * b)
    s = cube_root(of.short_r * r + of.short_g * g + of.short_b * b)
    return LL * l + LM * m - LS * s, AL * l - AM * m + AS * s, BL * l + BM * m - BS * s
