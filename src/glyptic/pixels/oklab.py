"""Oklab (B. Ottosson 2020, as in CSS Color 4, section 9) of encoded sRGB."""

from __future__ import annotations

from numpy import float32

from glyptic.pixels.compiled import formula
from glyptic.pixels.srgb import lin_positive
from glyptic.pixels.vector import clamp01, cube_root

LR, LG, LB = float32(0.4122214708), float32(0.5363325363), float32(0.0514459929)
MR, MG, MB = float32(0.2119034982), float32(0.6806995451), float32(0.1073969566)
SR, SG, SB = float32(0.0883024619), float32(0.2817188376), float32(0.6299787005)
LL, LM, LS = float32(0.2104542553), float32(0.7936177850), float32(0.0040720468)
AL, AM, AS = float32(1.9779984951), float32(2.4285922050), float32(0.4505937099)
BL, BM, BS = float32(0.0259040371), float32(0.7827717662), float32(0.8086757660)


@formula
def oklab(r: float, g: float, b: float) -> tuple[float, float, float]:
    """L, a, b of encoded r, g, b clamped to 0..1."""
    r, g, b = lin_positive(clamp01(r)), lin_positive(clamp01(g)), lin_positive(clamp01(b))
    l = cube_root(LR * r + LG * g + LB * b)
    m = cube_root(MR * r + MG * g + MB * b)
    s = cube_root(SR * r + SG * g + SB * b)
    return LL * l + LM * m - LS * s, AL * l - AM * m + AS * s, BL * l + BM * m - BS * s
