"""Gaussians that reach as far as the picture (`pixels.wide`): each tile is reduced to a few cells, which are kept; so a
change in one tile reduces one tile anew, and what a Gaussian costs does not grow with its sigma."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.nodes import Keys, Node
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Planes
from glyptic.pixels.wide import Axis, axis

Work = Callable[[], object]
"""Something to be made and kept."""
ALL = -1
"""The place of what is made of all tiles."""


class WideBlur:
    """The Gaussian of the whole of a node's first `channels` planes. Who asks for it watches the node."""

    def __init__(self, below: Node, sigma: float, channels: int) -> None:
        self.below = below
        self.sigma = sigma
        self.channels = channels
        self.keys: Keys = {}
        self._own = digest("wide", sigma)

    def _axes(self, reader: Reader) -> tuple[Axis, Axis]:
        sigma = self.sigma / reader.step
        return axis(reader.bounds.w, sigma), axis(reader.bounds.h, sigma)

    def key(self, reader: Reader) -> bytes:
        """A digest of all that is looked at: everything."""

        def made() -> bytes:
            return digest(self._own, *(reader.key(self.below, x, y) for x, y in reader.bounds.tiles()))

        return reader.remember(self, ALL, ALL, made)

    def pieces(self, reader: Reader, rect: Rect) -> list[Work]:
        """What can be made, in any order, of the tiles of a rectangle before the whole is."""
        return [partial(self._piece, reader, x, y) for x, y in rect.meet(reader.bounds).tiles()]

    def _piece(self, reader: Reader, tx: int, ty: int) -> Planes:
        """What a tile counts for in the cells it touches."""

        def make() -> Planes:
            across, down = self._axes(reader)
            rect = reader.tile_rect(tx, ty)
            px = reader.read(self.below, rect)[: self.channels]
            rows, columns = down.touched(rect.y, rect.bottom), across.touched(rect.x, rect.right)
            left, right = down.reduce[rows, rect.y : rect.bottom], across.reduce[columns, rect.x : rect.right]
            reader.counts["pieces"] += 1
            return np.asarray(left @ px @ right.T, np.float32)

        return reader.cache.get_or(digest(self._own, b"piece", reader.key(self.below, tx, ty)), make)

    def _cells(self, reader: Reader) -> Planes:
        """(channels, down, across): the blurred cells; pieces are added up in the order of the tiles."""

        def make() -> Planes:
            across, down = self._axes(reader)
            total = np.zeros((self.channels, down.cells, across.cells), np.float64)
            for tx, ty in reader.bounds.tiles():
                rect = reader.tile_rect(tx, ty)
                rows, columns = down.touched(rect.y, rect.bottom), across.touched(rect.x, rect.right)
                total[:, rows, columns] += self._piece(reader, tx, ty)
            return np.asarray(down.blur @ total @ across.blur.T, np.float32)

        return reader.cache.get_or(self.key(reader), make)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle."""
        across, down = self._axes(reader)
        small = down.enlarge[rect.y : rect.bottom] @ self._cells(reader)
        return np.ascontiguousarray(small @ across.enlarge[rect.x : rect.right].T, np.float32)
