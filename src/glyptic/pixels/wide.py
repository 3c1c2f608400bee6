"""The Gaussian where it reaches as far as the picture: along each axis a small matrix.

The picture, half-sample symmetric at its borders, is periodic: whatever the sigma, all a Gaussian can see is the
picture itself. Each axis is reduced to cells by tents (whose response falls off so fast that no detail folds down), the
cells are weighted by the Gaussian of the periodic picture (diagonal in the cosine transform, DCT-II, of half-sample
symmetric sequences: G. Strang, The Discrete Cosine Transform, SIAM Review 41, 1999), and the pixels are read between
the cells by cubic interpolation. What the tents have blurred is taken off the sigma. Within 2e-4 of the exact Gaussian
(tests/pixels/test_gaussian.py).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from math import ceil

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.gaussian import reflected

CELLS_A_SIGMA = 14.0
FEWEST_CELLS = 24
LEAST_CELL = 2.0
"""Pixels to a cell from which an axis is reduced at all."""
TENT_VARIANCE = 1 / 6
WIDE_FROM = 1 / 8
"""A sigma of this share of the picture's longer side counts as wide."""
REMEMBERED = 32
Matrix = NDArray[np.float32]


def is_wide(sigma: float, width: int, height: int) -> bool:
    """Whether a Gaussian reaches so far over a picture that it is worked out on the whole of it."""
    return sigma >= WIDE_FROM * max(width, height)


@dataclass(frozen=True)
class Axis:
    """One axis of a picture: to cells (cells, size), from blurred cells (size, cells), both in pixels of a level; and
    the Gaussian between them (cells, cells)."""

    reduce: Matrix
    blur: Matrix
    enlarge: Matrix

    @property
    def cells(self) -> int:
        return len(self.blur)

    def touched(self, first: int, end: int) -> slice:
        """The cells that pixels first .. end - 1 count for."""
        hit = np.flatnonzero(self.reduce[:, first:end].any(1))
        return slice(int(hit[0]), int(hit[-1]) + 1)


def _tents(size: int, cells: int) -> NDArray[np.float64]:
    """(cells, size): what each pixel counts for in each cell, a tent two cells wide, folded at the borders."""
    out = np.zeros((cells, size))
    wide = size / cells
    for pixel in range(-ceil(wide), size + ceil(wide)):
        at = (pixel + 0.5) / wide - 0.5
        for cell in (int(np.floor(at)), int(np.floor(at)) + 1):
            if 0 <= cell < cells:
                out[cell, int(reflected(pixel, 1, size)[0])] += 1 - abs(at - cell)
    return np.asarray(out / out.sum(1, keepdims=True))


def _cubic(size: int, cells: int) -> NDArray[np.float64]:
    """(size, cells): cubic interpolation (a = -0.5) between the cells, folded at the borders."""
    out = np.zeros((size, cells))
    at = (np.arange(size) + 0.5) * cells / size - 0.5
    first = np.floor(at).astype(int)
    u = at - first
    weights = (
        ((-0.5 * u + 1) * u - 0.5) * u, (1.5 * u - 2.5) * u * u + 1, ((-1.5 * u + 2) * u + 0.5) * u,
        (0.5 * u - 0.5) * u * u,
    )  # fmt: skip
    for offset, weight in zip((-1, 0, 1, 2), weights, strict=True):
        near = (first + offset) % (2 * cells)
        np.add.at(out, (np.arange(size), np.where(near < cells, near, 2 * cells - 1 - near)), weight)
    return out


def _gaussian(cells: int, variance: float) -> NDArray[np.float64]:
    """(cells, cells): the Gaussian of a variance in cells, of the half-sample symmetric, periodic axis."""
    k, x = np.arange(cells), np.arange(cells) + 0.5
    cosines = np.cos(np.pi / cells * np.outer(k, x)) * np.sqrt(np.where(k == 0, 1, 2) / cells)[:, None]
    fall = np.exp(-0.5 * variance * (np.pi * k / cells) ** 2)
    return np.asarray(cosines.T * fall @ cosines)


@lru_cache(maxsize=REMEMBERED)
def axis(size: int, sigma: float) -> Axis:
    """The matrices of an axis of `size` pixels of a level for a sigma in those pixels."""
    cells = min(size, max(FEWEST_CELLS, ceil(CELLS_A_SIGMA * size / sigma)))
    if size < LEAST_CELL * cells:
        same = np.eye(size, dtype=np.float32)
        return Axis(same, _gaussian(size, sigma * sigma).astype(np.float32), same)
    variance = (sigma * cells / size) ** 2 - TENT_VARIANCE
    made = _tents(size, cells), _gaussian(cells, variance), _cubic(size, cells)
    return Axis(*(matrix.astype(np.float32) for matrix in made))
