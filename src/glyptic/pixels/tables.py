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


NOTHING_TO_DO = np.empty(0, np.int64)
"""The words of a channel that is left alone."""
CHANNELS = 3


@kernel
def _through(
    px: Planes, alpha: Plane, first: Words, second: Words, third: Words, marked: NDArray[np.bool_]
) -> bool:  # fmt: skip
    """Mix the tables' values into the planes by alpha; pixels in a marked cell are left alone and told of in `marked`.
    One call for all planes: what is between two calls costs as much as half of one."""
    w = px.shape[2]
    cell = np.empty(w, np.int32)
    share = np.empty(w, np.float32)
    found = np.empty(w, np.int64)
    pairs = found.view(np.float32)
    any_marked = False
    for c in range(px.shape[0]):
        words = first if c == 0 else second if c == 1 else third
        for i in range(px.shape[1] if words.shape[0] > 0 else 0):
            row, much = px[c, i], alpha[i]
            for j in range(w):
                x = clamp((row[j] - START) * PER_UNIT + float32(1), float32(0), LAST)
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
                    row[j] += much[j] * (pairs[2 * j] + share[j] * pairs[2 * j + 1] - row[j])
            else:
                any_marked = True
                for j in range(w):
                    if found[j] == MARKED:
                        marked[c, i, j] = True
                    else:
                        row[j] += much[j] * (pairs[2 * j] + share[j] * pairs[2 * j + 1] - row[j])
    return any_marked


def through(px: Planes, alpha: Plane, tables: tuple[Table | None, ...]) -> None:
    """px += alpha (f(px) − px) for each channel that has a table, in place.

    px: (channels, h, w), at most three; alpha: (h, w) in 0..1.
    """
    marked = np.zeros(px.shape, np.bool_)
    words = [NOTHING_TO_DO if table is None else table.words for table in tables]
    words += [NOTHING_TO_DO] * (CHANNELS - len(words))
    if not _through(px, alpha, words[0], words[1], words[2], marked):
        return
    for plane, table, where in zip(px, tables, marked, strict=True):
        if table is not None and where.any():
            old = plane[where]
            exact = table.function(old.astype(np.float64)).astype(np.float32)
            plane[where] = old + alpha[where] * (exact - old)
