"""The Gaussian (computation.md): sampled, normalised, 4 sigma and more, half-sample symmetric at the borders.

Sums are taken in a fixed order and reductions are anchored at the picture's origin, so that a pixel's value does
not depend on which rectangle was asked for. From WIDE on the blur runs on a picture reduced by boxes and comes
back by cubic interpolation; the box's own variance is taken off the sigma. That stays within 5e-4 of the exact
Gaussian (tests/pixels/test_gaussian.py).
"""

from __future__ import annotations

from math import ceil, floor, log2, sqrt

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes, kernel

WIDE = 12.0
"""From this sigma (pixels) on, the blur runs on a reduced picture."""
NARROWEST_REDUCED = 6.0
"""The reduced picture's sigma is at least this, in its own pixels."""


def reduction(sigma: float) -> int:
    """By which power of two the picture is reduced before a blur of `sigma` pixels."""
    return 1 if sigma < WIDE else 1 << floor(log2(sigma / NARROWEST_REDUCED))


def _reduced_sigma(sigma: float, k: int) -> float:
    return sqrt(sigma * sigma / (k * k) - (1.0 - 1.0 / (k * k)) / 12.0)


def reach(sigma: float) -> int:
    """How many pixels beyond a rectangle its blur looks, in whole pixels."""
    if sigma <= 0:
        return 0
    k = reduction(sigma)
    if k == 1:
        return ceil(4 * sigma)
    return (ceil(4 * _reduced_sigma(sigma, k)) + 4) * k


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
def _boxes(px: Planes, oy: int, ox: int, k: int, out: Planes) -> None:
    scale = 1.0 / (k * k)
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            for j in range(out.shape[2]):
                total = 0.0
                for y in range(oy + i * k, oy + i * k + k):
                    for x in range(ox + j * k, ox + j * k + k):
                        total += px[c, y, x]
                out[c, i, j] = total * scale


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
    first_x, first_y = -(-x0 // k), -(-y0 // k)
    c, h, w = px.shape
    blocks_x, blocks_y = (x0 + w) // k - first_x, (y0 + h) // k - first_y
    small = np.empty((c, blocks_y, blocks_x), np.float32)
    _boxes(px, first_y * k - y0, first_x * k - x0, k, small)
    small_sigma = _reduced_sigma(sigma, k)
    soft = _separable(small, small_sigma)
    r = ceil(4 * small_sigma)
    weights = np.empty((k, 4), np.float64)
    _cubic_weights(k, weights)
    out = np.empty((c, h - 2 * margin, w - 2 * margin), np.float32)
    _enlarge(soft, first_x + r, first_y + r, k, x0 + margin, y0 + margin, weights, out)
    return out


def reflected(first: int, count: int, size: int) -> NDArray[np.intp]:
    """Indices first .. first+count-1 folded into 0 .. size-1, half-sample symmetric (... b a | a b ...)."""
    index = np.arange(first, first + count) % (2 * size)
    return np.where(index < size, index, 2 * size - 1 - index)
