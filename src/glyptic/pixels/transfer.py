"""The transfer function of every working space, and tone.

Sources: IEC 61966-2-1:1999 (transfer function); CIE 15 (L*). Everything is float32 inside
kernels. Encoded values are nominally 0..1; both functions are odd for negative values and go on above 1.
`linear` and `encoded` are the same in NumPy and float64, for building tables.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.pixels.compiled import formula
from glyptic.pixels.vector import cube_root, power_5_12, power_12_5, size

BLACK = float32(5e-8)
"""Luminance up to which a pixel counts as black where its colour would be scaled up: less than the darkest colour a
16-bit picture can hold (7.2e-2 / 65535 / 12.92 = 8.5e-8), so that only rounding of values between layers lies below."""
LSTAR_EPSILON = 216.0 / 24389.0
LSTAR_KAPPA = 24389.0 / 27.0

KNEE, KNEE_LIGHT = float32(0.04045), float32(0.0031308)
SLOPE, PER_SLOPE = float32(12.92), float32(1 / 12.92)
OFFSET, SCALE, PER_SCALE = float32(0.055), float32(1.055), float32(1 / 1.055)
PER_GAMMA = float32(1 / 2.4)
DARK, DARK_TONE = float32(LSTAR_EPSILON), float32(0.08)
KAPPA, PER_KAPPA = float32(LSTAR_KAPPA / 100), float32(100 / LSTAR_KAPPA)
TONE_SCALE, TONE_OFFSET, PER_TONE_SCALE = float32(1.16), float32(0.16), float32(1 / 1.16)
LEAST = float32(1e-30)
"""What stands in for 0 under a fraction whose result is not used."""
NOTHING = float32(0)


@formula
def lin_positive(x: float) -> float:
    """Linear light of an encoded value x >= 0 (IEC 61966-2-1)."""
    bright = power_12_5((x + OFFSET) * PER_SCALE)
    return x * PER_SLOPE if x <= KNEE else bright


@formula
def enc_positive(y: float) -> float:
    """Encoded value of linear light y >= 0, the inverse of `lin_positive`."""
    bright = SCALE * power_5_12(y) - OFFSET
    return y * SLOPE if y <= KNEE_LIGHT else bright


@formula
def lin(x: float) -> float:
    """Linear light of an encoded value, made odd."""
    y = lin_positive(size(x))
    return y if x >= NOTHING else -y


@formula
def enc(y: float) -> float:
    """Encoded value of linear light, the inverse of `lin`."""
    x = enc_positive(size(y))
    return x if y >= NOTHING else -x


@formula
def tone_of(y: float) -> float:
    """Tone t = L*/100 of luminance Y >= 0 (CIE 1976)."""
    bright = TONE_SCALE * cube_root(y) - TONE_OFFSET
    return bright if y > DARK else KAPPA * y


@formula
def luminance_of(t: float) -> float:
    """Luminance Y of tone t >= 0, the inverse of `tone_of`."""
    f = (t + TONE_OFFSET) * PER_TONE_SCALE
    return f * f * f if t > DARK_TONE else t * PER_KAPPA


Array = NDArray[np.float64]


def linear(x: Any) -> Array:
    """As `lin`, of arrays in float64."""
    a = np.abs(np.asarray(x, np.float64))
    return np.asarray(np.copysign(np.where(a <= 0.04045, a / 12.92, ((a + 0.055) / 1.055) ** 2.4), x))


def encoded(y: Any) -> Array:
    """As `enc`, of arrays in float64."""
    a = np.abs(np.asarray(y, np.float64))
    return np.asarray(np.copysign(np.where(a <= 0.0031308, a * 12.92, 1.055 * a ** (1 / 2.4) - 0.055), y))
