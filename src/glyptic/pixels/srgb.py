"""The sRGB working space: transfer function, luminance and tone.

Sources: IEC 61966-2-1:1999 (transfer function, luminance weights); CIE 15 (L*). Scalars are float64 inside
kernels. Encoded values are nominally 0..1; both functions are odd for negative values and go on above 1.
"""

from __future__ import annotations

import numpy as np

from glyptic.pixels.compiled import Plane, Planes, formula, kernel

RED, GREEN, BLUE = 0.2126, 0.7152, 0.0722
BLACK = 5e-8
"""Luminance up to which a pixel counts as black where its colour would be scaled up: less than the darkest colour a
16-bit picture can hold (7.2e-2 / 65535 / 12.92 = 8.5e-8), so that only rounding of values between layers lies below."""
LSTAR_EPSILON = 216.0 / 24389.0
LSTAR_KAPPA = 24389.0 / 27.0


@formula
def lin(x: float) -> float:
    """Linear light of an encoded value (IEC 61966-2-1, made odd)."""
    a = abs(x)
    y = a / 12.92 if a <= 0.04045 else ((a + 0.055) / 1.055) ** 2.4
    return y if x >= 0 else -y


@formula
def enc(y: float) -> float:
    """Encoded value of linear light, the inverse of `lin`."""
    a = abs(y)
    x = a * 12.92 if a <= 0.0031308 else 1.055 * a ** (1.0 / 2.4) - 0.055
    return x if y >= 0 else -x


@formula
def luminance(r: float, g: float, b: float) -> float:
    """Linear luminance Y of encoded r, g, b; negative counts as 0."""
    return max(0.0, RED * lin(r) + GREEN * lin(g) + BLUE * lin(b))


@formula
def tone_of(y: float) -> float:
    """Tone t = L*/100 of luminance Y >= 0 (CIE 1976)."""
    if y > LSTAR_EPSILON:
        return float(1.16 * y ** (1.0 / 3.0) - 0.16)
    return LSTAR_KAPPA * y / 100.0


@formula
def luminance_of(t: float) -> float:
    """Luminance Y of tone t >= 0, the inverse of `tone_of`."""
    if t > 0.08:
        f = (t + 0.16) / 1.16
        return f * f * f
    return t * 100.0 / LSTAR_KAPPA


@kernel
def _tone(px: Planes, out: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            out[i, j] = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j]))


def tone(px: Planes) -> Plane:
    """Tone t of every pixel; (3, h, w) encoded to (h, w)."""
    out = np.empty(px.shape[1:], np.float32)
    _tone(px, out)
    return out
