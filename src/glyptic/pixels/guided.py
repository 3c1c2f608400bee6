"""The guided filter with the plane itself as guide: a base that is smooth but keeps strong edges.

Source: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010; with Gaussian windows instead of boxes, and worked on
a reduced picture (K. He, J. Sun, Fast Guided Filter, 2015). The two factors are enlarged and meet the plane at full
size: base = a · t + b, so that edges lie where the plane has them.
"""

from __future__ import annotations

from math import ceil, floor, log2

import numpy as np

from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.gaussian import COARSEST, separable

SMALL = 2.0
"""The least sigma, in pixels of the reduced picture, that a wider window is reduced to."""


def reduction(sigma: float) -> int:
    """By which power of two the picture is reduced before a window of `sigma` pixels."""
    return 1 if sigma < 2 * SMALL else min(1 << floor(log2(sigma / SMALL)), COARSEST)


def reach(sigma: float) -> int:
    """How many pixels of the reduced picture the two passes look beyond one."""
    return 2 * ceil(4 * sigma / reduction(sigma))


def factors(plane: Plane, sigma: float, edge: float) -> Planes:
    """a and b (2, h, w), smaller by `reach` on every side than the reduced plane.

    sigma: of the window, in pixels before the reduction. edge: a difference in value that begins to count as an edge
    (the square root of He's epsilon).
    """
    small = sigma / reduction(sigma)
    mean, squares = separable(np.stack([plane, plane * plane]), small)
    spread = np.maximum(squares - mean * mean, 0)
    a = spread / (spread + np.float32(edge * edge))
    return separable(np.stack([a, mean * (1 - a)]), small)


@kernel
def base_of(plane: Plane, around: Planes, out: Plane) -> None:
    """a · t + b of every pixel."""
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            out[i, j] = around[0, i, j] * plane[i, j] + around[1, i, j]
