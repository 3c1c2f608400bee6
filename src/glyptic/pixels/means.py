"""Means of full-size codes: what a picture is at a level, once it is made at its full size."""

from __future__ import annotations

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.rectangles import Rect
from glyptic.pixels.compiled import Planes, kernel

DEPTH = 16
MOST = 65535.0


@kernel
def _add(codes: NDArray[np.uint16], y0: int, x0: int, level: int, sums: NDArray[np.float64]) -> None:
    for i in range(codes.shape[0]):
        row = (y0 + i) >> level
        for j in range(codes.shape[1]):
            column = (x0 + j) >> level
            for c in range(3):
                sums[c, row, column] += codes[i, j, c]


def _lengths(count: int, level: int, length: int) -> NDArray[np.int64]:
    """How many full-size pixels each of `count` pixels of a level stands for, in one direction."""
    ends = np.minimum(np.arange(1, count + 1) << level, length)
    return np.asarray(np.diff(ends, prepend=0))


class Means:
    """Gathers the 16-bit codes of an area, in full-size pixels, which begins where a pixel of the level does."""

    def __init__(self, area: Rect, level: int) -> None:
        self.area = area
        self.level = level
        self.height, self.width = (-(-side // (1 << level)) for side in (area.h, area.w))
        self._sums = np.zeros((3, self.height, self.width), np.float64)

    def add(self, codes: NDArray[np.uint16], rect: Rect) -> None:
        """Codes (h, w, 3) of a rectangle in full-size pixels; what is beyond the area does not count."""
        part = rect.meet(self.area)
        inside = codes[part.y - rect.y : part.bottom - rect.y, part.x - rect.x : part.right - rect.x]
        _add(inside, part.y - self.area.y, part.x - self.area.x, self.level, self._sums)

    def planes(self) -> Planes:
        """(3, h, w) the mean of each pixel of the level, 0..1."""
        rows, columns = _lengths(self.height, self.level, self.area.h), _lengths(self.width, self.level, self.area.w)
        return (self._sums / (rows[:, None] * columns[None, :] * MOST)).astype(float32)
