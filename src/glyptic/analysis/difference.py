"""How different two colours look: CIEDE2000.

Source: ISO/CIE 11664-6:2014; G. Sharma, W. Wu, E. N. Dalal 2005, "The CIEDE2000 color-difference formula:
implementation notes, supplementary test data, and mathematical observations".
"""

from __future__ import annotations

import math

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.spaces import Matrix, Primaries, Space, luminance
from glyptic.pixels.transfer import LSTAR_KAPPA, lin, linear
from glyptic.pixels.vector import clamp

EPSILON, KAPPA = 216 / 24389, 24389 / 27
POWER_7 = 25.0**7
Lab = NDArray[np.float64]


def _per_white(space: Space) -> Matrix:
    """Linear light to XYZ as shares of the white."""
    return np.asarray(space.to_xyz / space.to_xyz.sum(1)[:, None])


def lab(px: Planes, space: Space) -> Lab:
    """CIE L*, a*, b* (3, ...) of encoded r, g, b (3, ...), clamped to 0..1, under D65."""
    xyz = np.tensordot(_per_white(space), linear(np.clip(px, 0, 1)), 1)
    f = np.where(xyz > EPSILON, np.cbrt(xyz), (KAPPA * xyz + 16) / 116)
    return np.stack([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


@formula
def _hue(a: float, b: float) -> float:
    """Degrees, 0..360; 0 where there is none."""
    hue = math.degrees(math.atan2(b, a))
    return hue + 360.0 if hue < 0 else hue


@formula
def delta_e(l1: float, a1: float, b1: float, l2: float, a2: float, b2: float) -> float:
    """CIEDE2000 of two colours, all weights 1 (Sharma et al. 2005, equations 2 to 22)."""
    mean_c7 = ((math.hypot(a1, b1) + math.hypot(a2, b2)) / 2) ** 7
    g = 1.5 - 0.5 * math.sqrt(mean_c7 / (mean_c7 + POWER_7))
    x1, x2 = a1 * g, a2 * g
    c1, c2 = math.hypot(x1, b1), math.hypot(x2, b2)
    h1, h2 = _hue(x1, b1), _hue(x2, b2)
    turn, total = h2 - h1, h1 + h2
    if c1 * c2 == 0:
        turn, mean_h = 0.0, total
    elif abs(turn) <= 180:
        mean_h = total / 2
    else:
        turn += -360.0 if turn > 0 else 360.0
        mean_h = (total + 360.0 if total < 360 else total - 360.0) / 2
    across = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(turn) / 2)
    mean_l, mean_c = (l1 + l2) / 2, (c1 + c2) / 2
    t = 1 - 0.17 * math.cos(math.radians(mean_h - 30)) + 0.24 * math.cos(math.radians(2 * mean_h))
    t += 0.32 * math.cos(math.radians(3 * mean_h + 6)) - 0.20 * math.cos(math.radians(4 * mean_h - 63))
    off = (mean_l - 50) ** 2
    dl = (l2 - l1) / (1 + 0.015 * off / math.sqrt(20 + off))
    dc = (c2 - c1) / (1 + 0.045 * mean_c)
    dh = across / (1 + 0.015 * mean_c * t)
    mean_c7 = mean_c**7
    bend = 2 * math.sqrt(mean_c7 / (mean_c7 + POWER_7))
    turned = -math.sin(math.radians(60 * math.exp(-(((mean_h - 275) / 25) ** 2)))) * bend
    return math.sqrt(max(dl * dl + dc * dc + dh * dh + turned * dc * dh, 0.0))


@kernel
def _apart(one: Lab, other: Lab, out: NDArray[np.float64]) -> None:
    for i in range(out.shape[0]):
        out[i] = delta_e(one[0, i], one[1, i], one[2, i], other[0, i], other[1, i], other[2, i])


def apart(one: Lab, other: Lab) -> NDArray[np.float64]:
    """CIEDE2000 (n,) of colours (3, n) and (3, n) in L*, a*, b*."""
    out = np.empty(one.shape[1])
    _apart(np.ascontiguousarray(one), np.ascontiguousarray(other), out)
    return out


FIRST, LAST, NO_LIGHT = float32(0), float32(1), float32(0.01 / LSTAR_KAPPA * 100)
"""Ends of the range, and the least luminance that counts in stops: that of a tone of 1 %."""


@formula
def _bent(x: float) -> float:
    return x ** (1 / 3) if x > EPSILON else (KAPPA * x + 16) / 116


@formula
def _lab_of(r: float, g: float, b: float, xyz: Matrix) -> tuple[float, float, float]:
    """CIE L*, a*, b* of linear r, g, b; xyz: from those to shares of the white."""
    x = _bent(xyz[0, 0] * r + xyz[0, 1] * g + xyz[0, 2] * b)
    y = _bent(xyz[1, 0] * r + xyz[1, 1] * g + xyz[1, 2] * b)
    z = _bent(xyz[2, 0] * r + xyz[2, 1] * g + xyz[2, 2] * b)
    return 116 * y - 16, 500 * (x - y), 200 * (y - z)


@kernel
def _changes(before: Planes, after: Planes, of: Primaries, xyz: Matrix, apart: Plane, stops: Plane) -> None:
    for i in range(before.shape[1]):
        for j in range(before.shape[2]):
            r1, g1, b1 = (clamp(before[0, i, j], FIRST, LAST), clamp(before[1, i, j], FIRST, LAST),
                          clamp(before[2, i, j], FIRST, LAST))  # fmt: skip
            r2, g2, b2 = (clamp(after[0, i, j], FIRST, LAST), clamp(after[1, i, j], FIRST, LAST),
                          clamp(after[2, i, j], FIRST, LAST))  # fmt: skip
            if r1 == r2 and g1 == g2 and b1 == b2:
                apart[i, j] = stops[i, j] = FIRST
                continue
            l1, a1, c1 = _lab_of(lin(r1), lin(g1), lin(b1), xyz)
            l2, a2, c2 = _lab_of(lin(r2), lin(g2), lin(b2), xyz)
            apart[i, j] = delta_e(l1, a1, c1, l2, a2, c2)
            y1, y2 = max(luminance(r1, g1, b1, of), NO_LIGHT), max(luminance(r2, g2, b2, of), NO_LIGHT)
            stops[i, j] = math.log2(y2 / y1)


def changes(before: Planes, after: Planes, space: Space) -> tuple[Plane, Plane]:
    """(CIEDE2000, change of light in stops) of every pixel of two pictures (3, h, w), each clamped to 0..1; tones below
    1 % count as 1 % in stops. Both 0 where nothing changed."""
    apart, stops = (np.empty(before.shape[1:], np.float32) for _ in range(2))
    _changes(np.ascontiguousarray(before), np.ascontiguousarray(after), space.of, _per_white(space), apart, stops)
    return apart, stops


def looks_apart(before: Planes, after: Planes, where: NDArray[np.bool_], space: Space) -> Plane:
    """CIEDE2000 (n,) between two pictures (3, h, w) at the pixels of a mask (h, w)."""
    return apart(lab(before[:, where], space), lab(after[:, where], space)).astype(np.float32)
