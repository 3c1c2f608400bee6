"""What a neighbourhood step looks at: the picture below, whole or reduced, in blocks that neighbours share.

A wide blur runs on a picture halved again and again. That is kept in blocks, so that each is worked out once, whichever
tiles ask for it. The steps between are not kept: so a block needs little more of the picture than it covers, and a tile
needs little more than what the blur really looks at. The grids are anchored at the picture's origin and go on beyond
its borders, where the picture is half-sample symmetric.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator
from functools import partial

import numpy as np

from glyptic.adjust.kind import Neighbourhood
from glyptic.base.digests import digest, digest_plain
from glyptic.base.rectangles import TILE, Rect
from glyptic.engine.nodes import Keys, Node
from glyptic.engine.reader import Reader
from glyptic.engine.wide import WideBlur, Work
from glyptic.params import Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import SRGB
from glyptic.pixels.wide import is_wide

SMALLEST_BLOCK = 16
STEP_AND_SURROUNDINGS = 2
"""Who looks at what is below a neighbourhood step: it and what it gathers."""
COLOURS = 3
"""Planes that are looked at: not the alpha of what an isolated group brings."""


class Grid(ABC):
    """A picture that can be read also beyond its borders."""

    @abstractmethod
    def key(self, reader: Reader, rect: Rect) -> bytes:
        """A digest of all that goes into a rectangle of the grid."""

    @abstractmethod
    def basis(self, rect: Rect) -> Rect:
        """The pixels at the level's own size that are read for a rectangle of the grid."""

    @abstractmethod
    def read(self, reader: Reader, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle of the grid."""


class Below(Grid):
    """A node as it is, at the level's own size."""

    def __init__(self, node: Node) -> None:
        node.watch()
        self.node = node

    def basis(self, rect: Rect) -> Rect:
        return rect

    def key(self, reader: Reader, rect: Rect) -> bytes:
        area = reader.within(rect)
        return digest(*(reader.key(self.node, x, y) for x, y in area.tiles()))

    def read(self, reader: Reader, rect: Rect) -> Planes:
        return reader.read_around(self.node, rect)


class Reduced(Grid):
    """A picture halved until it is at 1/k of its size; kept in blocks of a tile each, so that neighbours share it.

    The blocks lie half a block off the tiles: so what a tile looks at, a little more than itself, is four of them,
    and these look at no more tiles than the blur itself does.
    """

    def __init__(self, finer: Below, k: int) -> None:
        self.finer = finer
        self.k = k
        self.side = max(SMALLEST_BLOCK, TILE // k)
        self.offset = self.side // 2
        self._own = digest("reduced", k)
        self.keys: Keys = {}

    def source(self, rect: Rect) -> Rect:
        """The rectangle of the finer picture that one of the grid is made from."""
        for _ in range(self.k.bit_length() - 1):
            rect = Rect(rect.x * 2, rect.y * 2, rect.w * 2, rect.h * 2).grown(1)
        return rect

    def place(self, bx: int, by: int) -> Rect:
        """The pixels of a block."""
        return Rect(bx * self.side - self.offset, by * self.side - self.offset, self.side, self.side)

    def blocks(self, rect: Rect) -> Iterator[tuple[int, int]]:
        """The places of the blocks a rectangle touches."""
        return Rect(rect.x + self.offset, rect.y + self.offset, rect.w, rect.h).tiles(self.side)

    def whole(self, rect: Rect) -> Rect:
        """The pixels of the blocks a rectangle touches."""
        places = list(self.blocks(rect))
        return self.place(*places[0]).join(self.place(*places[-1]))

    def basis(self, rect: Rect) -> Rect:
        return self.source(self.whole(rect))

    def key(self, reader: Reader, rect: Rect) -> bytes:
        return self.finer.key(reader, self.source(rect))

    def _made(self, reader: Reader, rect: Rect) -> Planes:
        px = self.finer.read(reader, self.source(rect))
        for _ in range(self.k.bit_length() - 1):
            px = gaussian.halved(px)
        return px

    def block(self, reader: Reader, bx: int, by: int) -> Planes:
        """A block, made if it is not kept."""
        rect = self.place(bx, by)

        def made() -> bytes:
            return digest(self._own, reader.place(bx, by), self.key(reader, rect))

        def make() -> Planes:
            reader.counts["blocks"] += 1
            return self._made(reader, rect)

        return reader.cache.get_or(reader.remember(self, bx, by, made), make)

    def read(self, reader: Reader, rect: Rect) -> Planes:
        if self.finer.node in reader.loose:
            return self._made(reader, rect)
        out = np.empty((self.finer.node.channels, rect.h, rect.w), np.float32)
        for bx, by in self.blocks(rect):
            block, place = self.block(reader, bx, by), self.place(bx, by)
            part = rect.meet(place)
            x, y = part.x - place.x, part.y - place.y
            out[:, part.y - rect.y : part.bottom - rect.y, part.x - rect.x : part.right - rect.x] = block[
                :, y : y + part.h, x : x + part.w
            ]
        return out


class Surroundings(Node):
    """What a neighbourhood kind gathers of a picture; kept."""

    fleeting = True

    def __init__(self, kind: Neighbourhood, settings: Values, below: Node) -> None:
        settings = kind.gaze(settings)
        super().__init__(digest("surroundings", kind.name, digest_plain(dict(settings))), kept=True)
        self.channels = kind.planes or min(below.channels, COLOURS)
        self.kind = kind
        self._given = settings
        self.below = below
        self._space = below.space if below.channels > 1 else SRGB
        self._as_it_is = Below(below)
        self._reduced: dict[int, Reduced] = {}
        self._sigma = kind.gaussian(settings)
        self._everywhere = WideBlur(below, self._sigma, self.channels)

    def _whole(self, reader: Reader) -> WideBlur | None:
        """What works it out on the whole picture, where it reaches so far."""
        return self._everywhere if self._sigma and is_wide(self._sigma, *reader.canvas) else None

    def _settings(self, reader: Reader) -> Values:
        return self.kind.within(self._given, *reader.canvas)

    def reduction(self, reader: Reader) -> int:
        """By which power of two a level is reduced before it is looked at."""
        return self.kind.reduction(self._settings(reader), reader.step)

    def coarser(self, reader: Reader) -> int:
        """By how many levels further out it may be gathered for a moment."""
        return self.kind.coarser(self._settings(reader), reader.step)

    def _grid(self, reader: Reader) -> tuple[int, Grid]:
        """The reduction and the grid it looks at, at the reader's level."""
        k = self.reduction(reader)
        if k == 1:
            return 1, self._as_it_is
        return k, self._reduced.setdefault(k, Reduced(self._as_it_is, k))

    def _source(self, reader: Reader, rect: Rect, k: int) -> Rect:
        """The rectangle of the grid that one of the level is made from."""
        reach = self.kind.reach(self._settings(reader), reader.step)
        if k == 1:
            return rect.grown(reach)
        left, top = rect.x // k, rect.y // k
        small = Rect(left, top, -(-rect.right // k) - left, -(-rect.bottom // k) - top)
        return small.grown(gaussian.ENLARGING_REACH + reach)

    def basis(self, reader: Reader, rect: Rect) -> Rect:
        """The pixels of what is below that are looked at for a rectangle, also beyond the picture's borders."""
        if self._whole(reader) is not None:
            return reader.bounds
        k, grid = self._grid(reader)
        return grid.basis(self._source(reader, rect, k))

    def work(self, reader: Reader, rect: Rect) -> list[Work]:
        """What can be made, in any order, for the tiles of a rectangle before they are."""
        whole = self._whole(reader)
        if whole is not None:
            return whole.pieces(reader, reader.bounds)
        k, grid = self._grid(reader)
        if not isinstance(grid, Reduced):
            return []
        return self._blocks(reader, grid, set(grid.blocks(self._source(reader, rect, k))))

    def reducing(self, reader: Reader, row: Rect, wanted: Rect) -> list[Work]:
        """What can be reduced once a row of tiles is there, also beyond the picture's borders, where it mirrors it:
        a row behind, for its blocks look a little further down; of that, what the tiles `wanted` look at."""
        whole = self._whole(reader)
        if whole is not None:
            return whole.pieces(reader, row)
        k, grid = self._grid(reader)
        if not isinstance(grid, Reduced):
            return []
        bounds = reader.bounds
        margin = -self.basis(reader, bounds).y
        left = row.x - (margin if row.x == 0 else 0)
        right = row.right + (margin if row.right == bounds.right else 0)
        bottom = row.bottom + margin if row.bottom == bounds.bottom else row.bottom - TILE
        areas = [Rect(left, row.y - TILE, right - left, bottom - row.y + TILE)]
        if bottom <= margin:
            areas.append(Rect(left, -bottom, right - left, TILE))
        small = [Rect.covering(a.x / k, a.y / k, a.right / k, a.bottom / k) for a in areas]
        places = {place for area in small for place in grid.blocks(area)}
        return self._blocks(reader, grid, places & set(grid.blocks(self._source(reader, wanted, k))))

    def _blocks(self, reader: Reader, grid: Reduced, places: set[tuple[int, int]]) -> list[Work]:
        return [partial(grid.block, reader, x, y) for x, y in sorted(places)]

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        whole = self._whole(reader)
        if whole is not None:
            return digest(self.own, reader.place(tx, ty), whole.key(reader))
        k, grid = self._grid(reader)
        source = self._source(reader, reader.tile_rect(tx, ty), k)
        return digest(self.own, reader.place(tx, ty), grid.key(reader, source))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        whole = self._whole(reader)
        if whole is not None:
            return whole.evaluate(reader, rect)
        k, grid = self._grid(reader)
        seen = grid.read(reader, self._source(reader, rect, k))[:COLOURS]
        px = self.kind.around(self._settings(reader), seen, reader.step, self._space)
        return px if k == 1 else gaussian.enlarged_from(px, k, rect)
