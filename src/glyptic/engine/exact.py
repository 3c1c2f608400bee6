"""Exact at rest: a picture zoomed out as what is written of it would be, reduced."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Planes
from glyptic.pixels.means import DEPTH, Means
from glyptic.pixels.quantise import to_codes


def full_size(reader: Reader, rect: Rect) -> Rect:
    """The full-size pixels of a rectangle of a reader's level."""
    return rect.from_level(reader.level).meet(reader.canvas.at(0))


class Exact(Node):
    """Each pixel of a level the mean of the full-size ones it stands for, once they are 16-bit codes. Those are kept in
    `codes`, so that after an edit only what it touches is made anew; what they are made of is kept in `scratch`, so
    that what the hand needs stays where it is."""

    def __init__(self, picture: Node, codes: TileCache, scratch: TileCache) -> None:
        super().__init__(digest("exact"), kept=True)
        self.picture = picture
        self.space = picture.space
        self.codes = codes
        self.scratch = scratch

    def _pieces(self, reader: Reader, rect: Rect) -> tuple[Reader, Iterator[tuple[int, int]]]:
        """A reader of full size, and the places of the tiles that a rectangle is made of."""
        return Reader(self.scratch, reader.canvas, 0, passing=True), full_size(reader, rect).tiles()

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        fine, pieces = self._pieces(reader, reader.tile_rect(tx, ty))
        return digest(self.own, reader.place(tx, ty), *(fine.key(self.picture, x, y) for x, y in pieces))

    def _kept_as(self, fine: Reader, tx: int, ty: int) -> bytes:
        return digest("codes", fine.key(self.picture, tx, ty))

    def _piece(self, fine: Reader, tx: int, ty: int) -> NDArray[np.uint16]:
        """(h, w, 3) 16-bit codes of a full-size tile."""

        def made() -> NDArray[np.uint16]:
            fine.counts["pieces"] += 1
            return np.asarray(to_codes(fine.read(self.picture, fine.tile_rect(tx, ty)), DEPTH))

        return self.codes.get_or(self._kept_as(fine, tx, ty), made)

    def missing(self, reader: Reader, tx: int, ty: int) -> list[Callable[[], object]]:
        """What has to be done, in any order, before a tile of a level is no more than a mean."""
        if reader.cache.peek(reader.key(self, tx, ty)) is not None:
            return []
        fine, pieces = self._pieces(reader, reader.tile_rect(tx, ty))
        return [
            partial(self._piece, fine, x, y) for x, y in pieces if self.codes.peek(self._kept_as(fine, x, y)) is None
        ]

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        fine, pieces = self._pieces(reader, rect)
        means = Means(rect, reader.level, reader.canvas)
        for tx, ty in pieces:
            means.add(self._piece(fine, tx, ty), fine.tile_rect(tx, ty))
        return means.planes()
