"""Means over areas: what a picture is at any scale, each pixel the mean of what it covers."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.base.rectangles import SLACK, Rect
from glyptic.pixels.compiled import Planes, kernel

MOST = 65535.0
Codes = NDArray[np.uint16]
"""(channels, height, width) of codes 0..65535."""
Shares = tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.float64]]
"""Of each pixel: which one of the smaller picture it begins in; how much of its length lies there, and in the next."""


@kernel
def _add(
    codes: Codes | Planes, rows: NDArray[np.int64], row_here: NDArray[np.float64], row_next: NDArray[np.float64],
    columns: NDArray[np.int64], here: NDArray[np.float64], there: NDArray[np.float64], sums: NDArray[np.float64],
) -> None:  # fmt: skip
    """sums: (c, h, w) of the smaller picture, a pixel larger on every side than what is wanted."""
    across = np.empty(sums.shape[2], np.float64)
    for c in range(codes.shape[0]):
        for i in range(codes.shape[1]):
            across[:] = 0.0
            for j in range(codes.shape[2]):
                value = np.float64(codes[c, i, j])
                across[columns[j]] += value * here[j]
                across[columns[j] + 1] += value * there[j]
            row, much, more = rows[i], row_here[i], row_next[i]
            for x in range(sums.shape[2]):
                sums[c, row, x] += much * across[x]
            if more > 0.0:
                for x in range(sums.shape[2]):
                    sums[c, row + 1, x] += more * across[x]


def _shares(first: int, count: int, ratio: float, end: float, origin: int) -> Shares:
    """Where the pixels first, first + 1 ... of a picture of the length `end` lie in one `ratio` times smaller, counted
    from the one before its pixel `origin`."""
    at = np.arange(first, first + count, dtype=np.float64)
    upto = np.minimum(at + 1, end)
    place = np.floor(at / ratio + SLACK / 2)
    beyond = np.maximum(upto - np.maximum((place + 1) * ratio, at), 0.0)
    beyond[beyond < SLACK] = 0.0
    return (place - origin + 1).astype(np.int64), upto - at - beyond, beyond


def _lengths(first: int, count: int, ratio: float, end: float) -> NDArray[np.float64]:
    """How much of a picture of the length `end` each pixel of one `ratio` times smaller covers."""
    edges = np.minimum(np.arange(first, first + count + 1) * ratio, end)
    return np.asarray(np.diff(edges))


class Areas:
    """Gathers samples, 16-bit codes or values, of a picture of `size` pixels over a rectangle of one that is `ratio`
    (>= 1) times smaller."""

    def __init__(self, rect: Rect, ratio: float, size: tuple[float, float], channels: int) -> None:
        self.rect = rect
        self.ratio = ratio
        self.width, self.height = size
        self._sums = np.zeros((channels, rect.h + 2, rect.w + 2), np.float64)

    @property
    def source(self) -> Rect:
        """The pixels it is made of."""
        r, ratio = self.rect, self.ratio
        right, bottom = min(r.right * ratio, self.width), min(r.bottom * ratio, self.height)
        return Rect.covering(r.x * ratio + SLACK, r.y * ratio + SLACK, right - SLACK, bottom - SLACK)

    def add(self, codes: Codes | Planes, at: Rect) -> None:
        """Samples (channels, h, w) of a rectangle; those beyond the source do not count."""
        part = at.meet(self.source)
        if part.empty:
            return
        inside = codes[:, part.y - at.y : part.bottom - at.y, part.x - at.x : part.right - at.x]
        rows = _shares(part.y, part.h, self.ratio, self.height, self.rect.y)
        columns = _shares(part.x, part.w, self.ratio, self.width, self.rect.x)
        _add(inside, *rows, *columns, self._sums)

    def planes(self, one: float = MOST) -> Planes:
        """(channels, h, w) the mean over each pixel, as a share of `one`."""
        down = _lengths(self.rect.y, self.rect.h, self.ratio, self.height)
        across = _lengths(self.rect.x, self.rect.w, self.ratio, self.width)
        return (self._sums[:, 1:-1, 1:-1] / (down[:, None] * across[None, :] * one)).astype(np.float32)
