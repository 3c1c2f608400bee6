"""Functions of one channel as tables: straight lines over CELLS cells to a unit of value, from LOWEST to HIGHEST.

A table is only used where it is true. Cells whose line strays from the function by more than STRAY, and everything
beyond the ends, are marked, and pixels that fall into a marked cell are computed by the function itself.
Value and rise of a cell lie side by side and are fetched as one 64-bit word: one load instead of two.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.vector import clamp, floor, whole

Function = Callable[[NDArray[np.float64]], NDArray[np.float64]]
"""A channel's new values from its old ones, float64; any shape."""
Words = NDArray[np.int64]

LOWEST, HIGHEST, CELLS = -0.5, 2.0, 4096
STRAY = 2e-4
MARKED = np.int64(np.float32(np.nan).view(np.uint32)) << 32
"""The word of a marked cell: its rise is not a number."""
START, PER_UNIT = float32(LOWEST), float32(CELLS)
LAST = float32((HIGHEST - LOWEST) * CELLS + 1)


def chained(first: Function | None, then: Function | None) -> Function | None:
    """One function after another; None stands for the one that changes nothing."""
    if first is None or then is None:
        return first or then

    def both(x: NDArray[np.float64]) -> NDArray[np.float64]:
        return then(first(x))

    return both


@dataclass(frozen=True)
class Table:
    """A function of one channel, and its words: a marked cell, the cells from LOWEST to HIGHEST, a marked cell."""

    function: Function
    words: Words


def make_table(function: Function) -> Table:
    count = int((HIGHEST - LOWEST) * CELLS)
    at = LOWEST + np.arange(2 * count + 1) / (2 * CELLS)
    values = np.asarray(function(at), np.float64)
    ends, middles = values[::2], values[1::2]
    stray = np.abs((ends[:-1] + ends[1:]) / 2 - middles)
    cells = np.zeros((count + 2, 2), np.float32)
    cells[1:-1, 0] = ends[:-1]
    cells[1:-1, 1] = np.diff(ends)
    words = cells.view(np.int64)[:, 0]
    words[0] = words[-1] = MARKED
    words[1:-1][~(stray <= STRAY)] = MARKED
    return Table(function, words)


@kernel
def _through(plane: Plane, alpha: Plane, words: Words, marked: NDArray[np.bool_]) -> bool:
    """Mix the table's values into a plane by alpha; pixels in a marked cell are left alone and told of in `marked`."""
    w = plane.shape[1]
    cell = np.empty(w, np.int32)
    share = np.empty(w, np.float32)
    found = np.empty(w, np.int64)
    pairs = found.view(np.float32)
    any_marked = False
    for i in range(plane.shape[0]):
        for j in range(w):
            x = clamp((plane[i, j] - START) * PER_UNIT + float32(1), float32(0), LAST)
            k = floor(x)
            cell[j] = whole(k)
            share[j] = x - k
        for j in range(w):
            found[j] = words[np.uint32(cell[j])]
        strange = 0
        for j in range(w):
            strange += found[j] == MARKED
        if strange == 0:
            for j in range(w):
                v = plane[i, j]
                plane[i, j] = v + alpha[i, j] * (pairs[2 * j] + share[j] * pairs[2 * j + 1] - v)
        else:
            any_marked = True
            for j in range(w):
                v = plane[i, j]
                if found[j] == MARKED:
                    marked[i, j] = True
                else:
                    plane[i, j] = v + alpha[i, j] * (pairs[2 * j] + share[j] * pairs[2 * j + 1] - v)
    return any_marked


def through(px: Planes, alpha: Plane, tables: tuple[Table | None, ...]) -> None:
    """px += alpha (f(px) − px) for each channel that has a table, in place.

    px: (channels, h, w); alpha: (h, w) in 0..1.
    """
    marked = np.zeros(px.shape[1:], np.bool_)
    for plane, table in zip(px, tables, strict=True):
        if table is not None and _through(plane, alpha, table.words, marked):
            old = plane[marked]
            exact = table.function(old.astype(np.float64)).astype(np.float32)
            plane[marked] = old + alpha[marked] * (exact - old)
            marked[:] = False
