"""Exact at rest: a picture zoomed out as what is written of it would be, reduced."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from glyptic.analysis.clipping import BLOCKED, BLOWN
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


def code_key(tile: bytes) -> bytes:
    """Under what the 16-bit codes of a full-size tile are kept, from the tile's key."""
    return digest("codes", tile)


def ends_of(codes: NDArray[np.uint16]) -> NDArray[np.float64]:
    """How many pixels of codes (h, w, 3) have a channel blocked, and blown."""
    highest = float(np.iinfo(np.uint16).max)
    ends = ((codes <= BLOCKED * highest).any(2), (codes >= BLOWN * highest).any(2))
    return np.array([float(np.count_nonzero(end)) for end in ends])


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

    def _fine(self, reader: Reader) -> Reader:
        """A reader of full size."""
        return Reader(self.scratch, reader.canvas, 0, passing=True)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        fine, pieces = self._fine(reader), full_size(reader, reader.tile_rect(tx, ty)).tiles()
        return digest(self.own, reader.place(tx, ty), *(fine.key(self.picture, x, y) for x, y in pieces))

    def _kept_as(self, fine: Reader, tx: int, ty: int) -> bytes:
        return code_key(fine.key(self.picture, tx, ty))

    def _piece(self, fine: Reader, tx: int, ty: int) -> NDArray[np.uint16]:
        """(h, w, 3) 16-bit codes of a full-size tile."""

        def made() -> NDArray[np.uint16]:
            fine.counts["pieces"] += 1
            return np.asarray(to_codes(fine.read(self.picture, fine.tile_rect(tx, ty)), DEPTH))

        return self.codes.get_or(self._kept_as(fine, tx, ty), made)

    def missing(self, reader: Reader, tiles: Iterable[tuple[int, int]]) -> list[Callable[[], object]]:
        """What has to be done, in any order, before tiles of a level are no more than means."""
        wanted = [at for at in tiles if reader.cache.peek(reader.key(self, *at)) is None]
        fine = self._fine(reader)
        places = dict.fromkeys(at for tile in wanted for at in full_size(reader, reader.tile_rect(*tile)).tiles())
        return [partial(self._piece, fine, *at) for at in places if self.codes.peek(self._kept_as(fine, *at)) is None]

    def clipped(self, reader: Reader) -> tuple[float, float]:
        """The shares of all full-size pixels of which some channel is blocked, and blown."""
        fine = self._fine(reader)
        found = np.zeros(2)
        for tx, ty in fine.bounds.tiles():
            key, made = self._kept_as(fine, tx, ty), partial(self._ends, fine, tx, ty)
            found += fine.cache.ready(digest("clipped", key), made)
        dark, light = found / (fine.bounds.w * fine.bounds.h)
        return float(dark), float(light)

    def _ends(self, fine: Reader, tx: int, ty: int) -> NDArray[np.float64]:
        return ends_of(self._piece(fine, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        fine = self._fine(reader)
        means = Means(rect, reader.level, reader.canvas)
        for tx, ty in full_size(reader, rect).tiles():
            means.add(self._piece(fine, tx, ty), fine.tile_rect(tx, ty))
        return means.planes()
