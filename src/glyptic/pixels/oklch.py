"""Oklab back to encoded sRGB, and colours brought into the picture's range by lowering their chroma.

Sources: B. Ottosson 2020, "A perceptual color space for image processing" (the inverse matrices); CSS Color 4, section
13 (gamut mapping at constant lightness and hue, by lowering chroma).
"""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.pixels.compiled import Planes, Row, formula
from glyptic.pixels.srgb import enc
from glyptic.pixels.vector import clamp01

LA, LB = float32(0.3963377774), float32(0.2158037573)
MA, MB = float32(-0.1055613458), float32(-0.0638541728)
SA, SB = float32(-0.0894841775), float32(-1.2914855480)
RL, RM, RS = float32(4.0767416621), float32(-3.3077115913), float32(0.2309699292)
GL, GM, GS = float32(-1.2684380046), float32(2.6097574011), float32(-0.3413193965)
BL, BM, BS = float32(-0.0041960863), float32(-0.7034186147), float32(1.7076147010)
INSIDE_LOW, INSIDE_HIGH = float32(-1e-6), float32(1 + 1e-6)
HALVINGS = 14
"""Of the interval in which the chroma is looked for: to within 6e-5 of what was wanted."""
PIECE = 32
"""Pixels of a row that are looked at together."""
ONE, HALF, NOTHING = float32(1), float32(0.5), float32(0)


@formula
def light(l: float, a: float, b: float) -> tuple[float, float, float]:
    """Linear r, g, b of Oklab's L, a, b."""
    p = l + LA * a + LB * b
    q = l + MA * a + MB * b
    s = l + SA * a + SB * b
    p, q, s = p * p * p, q * q * q, s * s * s
    return RL * p + RM * q + RS * s, GL * p + GM * q + GS * s, BL * p + BM * q + BS * s


@formula
def is_inside(l: float, a: float, b: float) -> bool:
    """Whether a colour lies in the range of sRGB."""
    red, green, blue = light(l, a, b)
    low = min(min(red, green), blue)  # noqa: PLW3301  of three they are compiled as a loop
    high = max(max(red, green), blue)  # noqa: PLW3301
    return low >= INSIDE_LOW and high <= INSIDE_HIGH


@formula
def _share(l: float, a: float, b: float) -> float:
    """How much of its chroma a colour outside the range can keep."""
    low, high = NOTHING, ONE
    for _ in range(HALVINGS):
        middle = (low + high) * HALF
        fits = is_inside(l, a * middle, b * middle)
        low = middle if fits else low
        high = high if fits else middle
    return ONE if is_inside(l, a, b) else low


@formula
def _keep_inside(l: Row, a: Row, b: Row) -> None:
    """Lower the chroma of a piece of a row as far as it takes."""
    for j in range(l.shape[0]):
        share = _share(l[j], a[j], b[j])
        a[j] *= share
        b[j] *= share


@formula
def fit(l: Row, a: Row, b: Row, spare: Row) -> None:
    """Rows of Oklab's L, a, b become encoded r, g, b in 0..1, in place: L is held to 0..1, and chroma is lowered as far
    as it takes. How far is only looked for where something in a piece of the row lies outside."""
    for j in range(l.shape[0]):
        l[j] = clamp01(l[j])
        spare[j] = NOTHING if is_inside(l[j], a[j], b[j]) else ONE
    for start in range(0, l.shape[0], PIECE):
        end = min(start + PIECE, l.shape[0])
        outside = False
        for j in range(start, end):
            outside |= spare[j] > NOTHING
        if outside:
            _keep_inside(l[start:end], a[start:end], b[start:end])
    for j in range(l.shape[0]):
        red, green, blue = light(l[j], a[j], b[j])
        l[j] = clamp01(enc(clamp01(red)))
        a[j] = clamp01(enc(clamp01(green)))
        b[j] = clamp01(enc(clamp01(blue)))


@formula
def rows(width: int) -> tuple[Row, Row, Row, Row, Row]:
    """Room for a row of three values, a share, and what `fit` needs beside."""
    room = np.empty((5, width), np.float32)
    return room[0], room[1], room[2], room[3], room[4]


@formula
def lay_row(px: Planes, i: int, r: Row, g: Row, b: Row, share: Row) -> None:
    """Mix a row of colours in 0..1 into row i of `px`; what lies beyond 0..1 keeps its distance to the range."""
    for j in range(r.shape[0]):
        red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
        px[0, i, j] = red + share[j] * (r[j] - clamp01(red))
        px[1, i, j] = green + share[j] * (g[j] - clamp01(green))
        px[2, i, j] = blue + share[j] * (b[j] - clamp01(blue))


T0, T1, T2 = float32(0.99997726), float32(-0.33262347), float32(0.19354346)
T3, T4, T5 = float32(-0.11643287), float32(0.05265332), float32(-0.01172120)
QUARTER, HALF_TURN, DEGREES = float32(90), float32(180), float32(57.29577951308232)
SMALLEST = float32(1e-12)


@formula
def hue_of(a: float, b: float) -> float:
    """The hue angle of a and b in degrees, −180..180; within 0.001 (the arctangent by a polynomial)."""
    x, y = abs(a), abs(b)
    large, small = max(x, y), min(x, y)
    z = small / (large if large > SMALLEST else SMALLEST)
    s = z * z
    angle = DEGREES * z * (T0 + s * (T1 + s * (T2 + s * (T3 + s * (T4 + s * T5)))))
    angle = QUARTER - angle if y > x else angle
    angle = HALF_TURN - angle if a < NOTHING else angle
    return -angle if b < NOTHING else angle
