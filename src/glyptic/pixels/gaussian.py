"""The Gaussian (computation.md): sampled, normalised, 4 sigma and more, half-sample symmetric at the borders.

Sums are taken in a fixed order and reductions are anchored at the picture's origin, so that a pixel's value does
not depend on which rectangle was asked for. From WIDE on the blur runs on a picture halved as often as it bears, by
(1, 3, 3, 1) / 8, which lets no fine detail fold down, and comes back by cubic interpolation; the variance of the
halving is taken off the sigma. That stays within 2e-4 of the exact Gaussian (tests/pixels/test_gaussian.py).
"""

from __future__ import annotations

from math import ceil, floor, log2, sqrt

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes, kernel

WIDE = 8.0
"""From this sigma (pixels) on, the blur runs on a reduced picture."""
NARROWEST_REDUCED = 4.0
"""The reduced picture's sigma is at least this, in its own pixels."""


def reduction(sigma: float) -> int:
    """By which power of two the picture is reduced before a blur of `sigma` pixels."""
    return 1 if sigma < WIDE else 1 << floor(log2(sigma / NARROWEST_REDUCED))


def _reduced_sigma(sigma: float, k: int) -> float:
    return sqrt(sigma * sigma / (k * k) - (1.0 - 1.0 / (k * k)) / 4.0)


def reach(sigma: float) -> int:
    """How many pixels beyond a rectangle its blur looks, in whole pixels."""
    if sigma <= 0:
        return 0
    k = reduction(sigma)
    if k == 1:
        return ceil(4 * sigma)
    return (ceil(4 * _reduced_sigma(sigma, k)) + 5) * k


def taps(sigma: float) -> NDArray[np.float64]:
    """The normalised samples of the Gaussian at whole pixels -r .. r, r = ceil(4 sigma)."""
    r = ceil(4 * sigma)
    x = np.arange(-r, r + 1, dtype=np.float64)
    weights = np.exp(-0.5 * (x / sigma) ** 2)
    return np.asarray(weights / weights.sum(), np.float64)


@kernel
def _rows(px: Planes, weights: NDArray[np.float32], out: Planes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            for j in range(out.shape[2]):
                out[c, i, j] = 0.0
            for t in range(weights.shape[0]):
                w = weights[t]
                for j in range(out.shape[2]):
                    out[c, i, j] += w * px[c, i, j + t]


@kernel
def _columns(px: Planes, weights: NDArray[np.float32], out: Planes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            for j in range(out.shape[2]):
                out[c, i, j] = 0.0
            for t in range(weights.shape[0]):
                w = weights[t]
                for j in range(out.shape[2]):
                    out[c, i, j] += w * px[c, i + t, j]


def _separable(px: Planes, sigma: float) -> Planes:
    """Blur; the result is smaller by ceil(4 sigma) on every side."""
    weights = taps(sigma).astype(np.float32)
    r = len(weights) // 2
    c, h, w = px.shape
    across = np.empty((c, h, w - 2 * r), np.float32)
    _rows(px, weights, across)
    out = np.empty((c, h - 2 * r, w - 2 * r), np.float32)
    _columns(across, weights, out)
    return out


@kernel
def _halve_rows(px: Planes, first: int, out: Planes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            for j in range(out.shape[2]):
                x = first + 2 * j
                a, b = px[c, i, x] + px[c, i, x + 3], px[c, i, x + 1] + px[c, i, x + 2]
                out[c, i, j] = (a + 3.0 * b) * 0.125


@kernel
def _halve_columns(px: Planes, first: int, out: Planes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            y = first + 2 * i
            for j in range(out.shape[2]):
                a, b = px[c, y, j] + px[c, y + 3, j], px[c, y + 1, j] + px[c, y + 2, j]
                out[c, i, j] = (a + 3.0 * b) * 0.125


def _halved(px: Planes, x0: int, y0: int) -> tuple[Planes, int, int]:
    """Half the size by (1, 3, 3, 1) / 8 both ways; pixel j of the result lies between 2j and 2j + 1."""
    c, h, w = px.shape
    left, top = -(-(x0 + 1) // 2), -(-(y0 + 1) // 2)
    columns, rows = (x0 + w - 3) // 2 - left + 1, (y0 + h - 3) // 2 - top + 1
    across = np.empty((c, h, columns), np.float32)
    _halve_rows(px, 2 * left - 1 - x0, across)
    out = np.empty((c, rows, columns), np.float32)
    _halve_columns(across, 2 * top - 1 - y0, out)
    return out, left, top


@kernel
def _cubic_weights(k: int, out: NDArray[np.float64]) -> None:
    """Weights of four neighbours (a = −0.5) for each of the k places of a pixel in its block."""
    for phase in range(k):
        u = (phase + 0.5) / k - 0.5
        if u < 0:
            u += 1.0
        out[phase, 0] = ((-0.5 * u + 1.0) * u - 0.5) * u
        out[phase, 1] = (1.5 * u - 2.5) * u * u + 1.0
        out[phase, 2] = ((-1.5 * u + 2.0) * u + 0.5) * u
        out[phase, 3] = (0.5 * u - 0.5) * u * u


@kernel
def _enlarge(
    small: Planes, j0: int, i0: int, k: int, x0: int, y0: int, weights: NDArray[np.float64], out: Planes
) -> None:
    """Pixels (x0 + j, y0 + i) from blocks whose first is (j0, i0)."""
    half = k // 2
    for i in range(out.shape[1]):
        y = y0 + i
        block_y = y // k
        phase_y = y - block_y * k
        ty = block_y - i0 - (1 if phase_y < half else 0) - 1
        for j in range(out.shape[2]):
            x = x0 + j
            block_x = x // k
            phase_x = x - block_x * k
            tx = block_x - j0 - (1 if phase_x < half else 0) - 1
            for c in range(out.shape[0]):
                total = 0.0
                for a in range(4):
                    line = 0.0
                    for b in range(4):
                        line += weights[phase_x, b] * small[c, ty + a, tx + b]
                    total += weights[phase_y, a] * line
                out[c, i, j] = total


def blur(px: Planes, x0: int, y0: int, sigma: float) -> Planes:
    """Blur a picture that comes with an apron of `reach(sigma)` pixels on every side.

    px: (c, h + 2 reach, w + 2 reach); x0, y0: the picture's own coordinates of its first pixel (may be negative).
    Returns (c, h, w).
    """
    margin = reach(sigma)
    if margin == 0:
        return px
    k = reduction(sigma)
    if k == 1:
        return _separable(px, sigma)
    c, h, w = px.shape
    small, left, top = px, x0, y0
    for _ in range(k.bit_length() - 1):
        small, left, top = _halved(small, left, top)
    small_sigma = _reduced_sigma(sigma, k)
    soft = _separable(small, small_sigma)
    r = ceil(4 * small_sigma)
    weights = np.empty((k, 4), np.float64)
    _cubic_weights(k, weights)
    out = np.empty((c, h - 2 * margin, w - 2 * margin), np.float32)
    _enlarge(soft, left + r, top + r, k, x0 + margin, y0 + margin, weights, out)
    return out


def reflected(first: int, count: int, size: int) -> NDArray[np.intp]:
    """Indices first .. first+count-1 folded into 0 .. size-1, half-sample symmetric (... b a | a b ...)."""
    index = np.arange(first, first + count) % (2 * size)
    return np.where(index < size, index, 2 * size - 1 - index)
