"""The guided filter with the plane itself as guide: a base that is smooth but keeps strong edges.

Source: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010; with Gaussian windows instead of boxes, and worked on
a reduced picture (K. He, J. Sun, Fast Guided Filter, 2015). The two factors are enlarged and meet the plane at full
size: base = a · t + b, so that edges lie where the plane has them.
"""

from __future__ import annotations

from math import ceil, floor, log2

import numpy as np
from numpy import float32

from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.gaussian import COARSEST, separable
from glyptic.pixels.shapes import NOTHING
from glyptic.pixels.vector import ONE

SMALL = 2.0
"""The least sigma, in pixels of the reduced picture, that a wider window is reduced to."""


NARROWEST_MOVING = 1.0
"""As that of a Gaussian (`gaussian.NARROWEST_MOVING`): the plane keeps its own edges, wherever the factors are from."""


def coarser(sigma: float) -> int:
    """By how many levels further out a window of `sigma` pixels gives nearly the same factors."""
    return max(0, floor(log2(sigma / NARROWEST_MOVING)))


def reduction(sigma: float) -> int:
    """By which power of two the picture is reduced before a window of `sigma` pixels."""
    return 1 if sigma < 2 * SMALL else min(1 << floor(log2(sigma / SMALL)), COARSEST)


def reach(sigma: float) -> int:
    """How many pixels of the reduced picture the two passes look beyond one."""
    return 2 * ceil(4 * sigma / reduction(sigma))


@kernel
def _moments(plane: Plane, out: Planes) -> None:
    """A plane and its square."""
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            out[0, i, j] = plane[i, j]
            out[1, i, j] = plane[i, j] * plane[i, j]


@kernel
def _shares(moments: Planes, edge: float) -> None:
    """Mean and mean square become a = v / (v + edge²), v the variance, and mean · (1 − a), in place."""
    for i in range(moments.shape[1]):
        for j in range(moments.shape[2]):
            mean = moments[0, i, j]
            spread = moments[1, i, j] - mean * mean
            spread = spread if spread > NOTHING else NOTHING
            a = spread / (spread + edge * edge)
            moments[0, i, j] = a
            moments[1, i, j] = mean * (ONE - a)


def factors(plane: Plane, sigma: float, edge: float) -> Planes:
    """a and b (2, h, w), smaller by `reach` on every side than the reduced plane.

    sigma: of the window, in pixels before the reduction. edge: a difference in value that begins to count as an edge
    (the square root of He's epsilon).
    """
    small = sigma / reduction(sigma)
    both = np.empty((2, *plane.shape), float32)
    _moments(plane, both)
    moments = separable(both, small)
    _shares(moments, float32(edge))
    return separable(moments, small)


@kernel
def base_of(plane: Plane, around: Planes, out: Plane) -> None:
    """a · t + b of every pixel."""
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            out[i, j] = around[0, i, j] * plane[i, j] + around[1, i, j]
