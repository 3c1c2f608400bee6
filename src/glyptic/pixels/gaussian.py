"""The Gaussian (computation.md): sampled, normalised, 4 sigma and more, half-sample symmetric at the borders.

Sums are taken in a fixed order and reductions are anchored at the picture's origin, so that a pixel's value does
not depend on which rectangle was asked for. From WIDE on the blur runs on a picture halved as often as it bears, by
(1, 3, 3, 1) / 8, which lets no fine detail fold down, and comes back by cubic interpolation; the variance of the
halving is taken off the sigma. That stays within 2e-4 of the exact Gaussian (tests/pixels/test_gaussian.py).
"""

from __future__ import annotations

from functools import cache
from itertools import pairwise
from math import ceil, floor, log2, sqrt

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.rectangles import Rect
from glyptic.pixels.compiled import Planes, kernel

THREE, EIGHTH = float32(3), float32(0.125)

WIDE = 8.0
"""From this sigma (pixels) on, the blur runs on a reduced picture."""
NARROWEST_REDUCED = 4.0
"""The reduced picture's sigma is at least this, in its own pixels."""


NEGLIGIBLE = 0.025
"""Below this sigma the neighbours' weight is nothing to the last bit of a double: the blur is the identity."""
NARROWEST_MOVING = 1.3
"""The least sigma, in pixels further out, of what is gathered there for a moment: at hard edges that is off by about
one 8-bit code (tests/engine/test_moving.py)."""
COARSEST = 256
"""The picture is reduced at most this much."""
ENLARGING_REACH = 2
"""How many reduced pixels beyond a block its enlargement looks."""


def reduction(sigma: float) -> int:
    """By which power of two the picture is reduced before a blur of `sigma` pixels."""
    return 1 if sigma < WIDE else min(1 << floor(log2(sigma / NARROWEST_REDUCED)), COARSEST)


def coarser(sigma: float) -> int:
    """By how many levels further out a blur of `sigma` pixels is nearly the same."""
    return max(0, floor(log2(max(sigma, NEGLIGIBLE) / NARROWEST_MOVING)))


def _small_sigma(sigma: float) -> float:
    """The sigma left to do on the reduced picture, in its pixels."""
    k = reduction(sigma)
    return sigma if k == 1 else sqrt(sigma * sigma / (k * k) - (1.0 - 1.0 / (k * k)) / 4.0)


def small_reach(sigma: float) -> int:
    """How many pixels of the reduced picture the blur looks beyond one."""
    return 0 if sigma < NEGLIGIBLE else ceil(4 * _small_sigma(sigma))


def reach(sigma: float) -> int:
    """How many pixels beyond a rectangle its blur looks, in whole pixels."""
    if sigma <= 0:
        return 0
    k = reduction(sigma)
    return small_reach(sigma) if k == 1 else (small_reach(sigma) + ENLARGING_REACH + 1) * k


def taps(sigma: float) -> NDArray[np.float64]:
    """The normalised samples of the Gaussian at whole pixels -r .. r, r = ceil(4 sigma)."""
    if sigma < NEGLIGIBLE:
        return np.ones(1)
    r = ceil(4 * sigma)
    x = np.arange(-r, r + 1, dtype=np.float64)
    weights = np.exp(-0.5 * (x / sigma) ** 2)
    return np.asarray(weights / weights.sum(), np.float64)


@kernel
def _rows(px: Planes, weights: NDArray[np.float32], out: Planes) -> None:
    """Four taps at a time, so that sums stay in registers longer; then those that are left, one by one."""
    fours = weights.shape[0] // 4 * 4
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            line, total = px[c, i], out[c, i]
            for j in range(total.shape[0]):
                total[j] = float32(0)
            for t in range(0, fours, 4):
                w0, w1, w2, w3 = weights[t], weights[t + 1], weights[t + 2], weights[t + 3]
                row = line[t:]
                for j in range(total.shape[0]):
                    total[j] += (w0 * row[j] + w1 * row[j + 1]) + (w2 * row[j + 2] + w3 * row[j + 3])
            for t in range(fours, weights.shape[0]):
                w0, row = weights[t], line[t:]
                for j in range(total.shape[0]):
                    total[j] += w0 * row[j]


@kernel
def _columns(px: Planes, weights: NDArray[np.float32], out: Planes) -> None:
    fours = weights.shape[0] // 4 * 4
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            total = out[c, i]
            for j in range(total.shape[0]):
                total[j] = float32(0)
            for t in range(0, fours, 4):
                w0, w1, w2, w3 = weights[t], weights[t + 1], weights[t + 2], weights[t + 3]
                r0, r1, r2, r3 = px[c, i + t], px[c, i + t + 1], px[c, i + t + 2], px[c, i + t + 3]
                for j in range(total.shape[0]):
                    total[j] += (w0 * r0[j] + w1 * r1[j]) + (w2 * r2[j] + w3 * r3[j])
            for t in range(fours, weights.shape[0]):
                w0, r0 = weights[t], px[c, i + t]
                for j in range(total.shape[0]):
                    total[j] += w0 * r0[j]


def separable(px: Planes, sigma: float) -> Planes:
    """Blur planes (c, h, w); the result is smaller by ceil(4 sigma) on every side."""
    weights = taps(sigma).astype(np.float32)
    r = len(weights) // 2
    c, h, w = px.shape
    across = np.empty((c, h, w - 2 * r), np.float32)
    _rows(np.ascontiguousarray(px), weights, across)
    out = np.empty((c, h - 2 * r, w - 2 * r), np.float32)
    _columns(across, weights, out)
    return out


@kernel
def _halve(px: Planes, out: Planes) -> None:
    w = out.shape[2]
    line = np.empty(2 * w + 2, np.float32)
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            r0, r1, r2, r3, half = px[c, 2 * i], px[c, 2 * i + 1], px[c, 2 * i + 2], px[c, 2 * i + 3], out[c, i]
            for j in range(2 * w + 2):
                line[j] = ((r0[j] + r3[j]) + THREE * (r1[j] + r2[j])) * EIGHTH
            for j in range(w):
                half[j] = ((line[2 * j] + line[2 * j + 3]) + THREE * (line[2 * j + 1] + line[2 * j + 2])) * EIGHTH


def halved(px: Planes) -> Planes:
    """Half the size by (1, 3, 3, 1) / 8 both ways, from a picture with one pixel more on every side.

    px: (c, 2h + 2, 2w + 2); pixel j of the result (c, h, w) lies between the former 2j and 2j + 1.
    """
    c, h, w = px.shape
    out = np.empty((c, h // 2 - 1, w // 2 - 1), np.float32)
    _halve(px, out)
    return out


def small_blur(px: Planes, sigma: float) -> Planes:
    """Blur a picture reduced by `reduction(sigma)`; smaller by `small_reach(sigma)` on every side."""
    return separable(px, _small_sigma(sigma))


@cache
def _phases(k: int) -> NDArray[np.float32]:
    """(k, 5): what each of five neighbouring reduced pixels counts for at each of the k places of the middle one
    (cubic, a = −0.5)."""
    out = np.zeros((5, k))
    for phase in range(k):
        u = (phase + 0.5) / k - 0.5
        first = 0 if u < 0 else 1
        u %= 1.0
        out[first, phase] = ((-0.5 * u + 1.0) * u - 0.5) * u
        out[first + 1, phase] = (1.5 * u - 2.5) * u * u + 1.0
        out[first + 2, phase] = ((-1.5 * u + 2.0) * u + 0.5) * u
        out[first + 3, phase] = (0.5 * u - 0.5) * u * u
    return np.ascontiguousarray(out.T, np.float32)


@kernel
def _enlarge(small: Planes, k: int, phases: NDArray[np.float32], out: Planes) -> None:
    """Across first, on the few rows there are, phase by phase; then down, whole rows at a time."""
    rows, n, width = small.shape[1], small.shape[2] - 4, out.shape[2]
    wide, parts = np.empty((rows, n * k), np.float32), np.empty((k, n), np.float32)
    for c in range(out.shape[0]):
        for i in range(rows):
            line, row = small[c, i], wide[i]
            l0, l1, l2, l3, l4 = line[:n], line[1 : n + 1], line[2 : n + 2], line[3 : n + 3], line[4 : n + 4]
            for p in range(k):
                part, w = parts[p], phases[p]
                for j in range(n):
                    part[j] = l0[j] * w[0] + l1[j] * w[1] + l2[j] * w[2] + l3[j] * w[3] + l4[j] * w[4]
            for p in range(k):
                for j in range(n):
                    row[j * k + p] = parts[p, j]
        for i in range(out.shape[1]):
            block = i // k
            w = phases[i - block * k]
            r0, r1, r2 = wide[block, :width], wide[block + 1, :width], wide[block + 2, :width]
            r3, r4, row = wide[block + 3, :width], wide[block + 4, :width], out[c, i]
            for j in range(width):
                row[j] = w[0] * r0[j] + w[1] * r1[j] + w[2] * r2[j] + w[3] * r3[j] + w[4] * r4[j]


def enlarged(small: Planes, k: int, height: int, width: int) -> Planes:
    """Enlarge k times by cubic interpolation.

    small: (c, rows, columns), with ENLARGING_REACH more on every side than the result needs, whose first pixel is
    the first of a block; the result is (c, height, width).
    """
    out = np.empty((small.shape[0], height, width), np.float32)
    _enlarge(np.ascontiguousarray(small), k, _phases(k), out)
    return out


def enlarged_from(small: Planes, k: int, rect: Rect) -> Planes:
    """A rectangle of what is enlarged k times. small: begins ENLARGING_REACH before the block its corner lies in."""
    x, y = rect.x % k, rect.y % k
    return np.ascontiguousarray(enlarged(small, k, y + rect.h, x + rect.w)[:, y:, x:])


def reflected(first: int, count: int, size: int) -> NDArray[np.intp]:
    """Indices first .. first+count-1 folded into 0 .. size-1, half-sample symmetric (... b a | a b ...)."""
    index = np.arange(first, first + count) % (2 * size)
    return np.where(index < size, index, 2 * size - 1 - index)


@kernel
def _fold(px: Planes, ys: NDArray[np.intp], xs: NDArray[np.intp], plain: int, end: int, out: Planes) -> None:
    """out[c, i, j] = px[c, ys[i], xs[j]]; from `plain` to `end` xs are neighbours."""
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            line, row = px[c, ys[i]], out[c, i]
            for j in range(plain):
                row[j] = line[xs[j]]
            straight, middle = row[plain:end], line[xs[plain] :]
            for j in range(straight.shape[0]):
                straight[j] = middle[j]
            for j in range(end, row.shape[0]):
                row[j] = line[xs[j]]


def folded(px: Planes, ys: NDArray[np.intp], xs: NDArray[np.intp]) -> Planes:
    """Rows `ys` and columns `xs` of planes (c, h, w), where xs is made by `reflected`."""
    out = np.empty((px.shape[0], len(ys), len(xs)), np.float32)
    turns = np.flatnonzero(np.diff(xs) != 1) + 1
    starts = [0, *turns.tolist(), len(xs)]
    length, plain = max((after - before, before) for before, after in pairwise(starts))
    _fold(np.ascontiguousarray(px), ys, xs, plain, plain + length, out)
    return out
