"""What a neighbourhood step looks at: the picture below, whole or reduced, in blocks that neighbours share.

A wide blur runs on a picture halved again and again. What was halved, and the blur of that, is kept in blocks, so that
each is worked out once, whichever tiles ask for it. The steps between are not kept: a block needs little more of the
picture than it covers, and so a tile needs no more than what the blur really looks at. The grids are anchored at
the picture's origin and go on beyond its borders, where the picture is half-sample symmetric.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from functools import partial

import numpy as np

from glyptic.adjust.kind import Neighbourhood
from glyptic.base.digests import digest
from glyptic.base.rectangles import TILE, Rect
from glyptic.engine.reader import Node, Reader
from glyptic.params import Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Planes

SMALLEST_BLOCK = 16
Work = Callable[[], object]
"""Something to be made and kept."""


class Grid(ABC):
    """A picture that can be read also beyond its borders."""

    @abstractmethod
    def key(self, reader: Reader, rect: Rect) -> bytes:
        """A digest of all that goes into a rectangle of the grid."""

    @abstractmethod
    def basis(self, rect: Rect) -> tuple[Node, Rect]:
        """The node at the level's own size that it all comes from, and the part of it a rectangle comes from."""

    @abstractmethod
    def read(self, reader: Reader, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle of the grid."""


class Below(Grid):
    """A node as it is, at the level's own size."""

    def __init__(self, node: Node) -> None:
        node.kept = True
        self.node = node

    def basis(self, rect: Rect) -> tuple[Node, Rect]:
        return self.node, rect

    def key(self, reader: Reader, rect: Rect) -> bytes:
        area = reader.within(rect)
        return digest(*(reader.key(self.node, x, y) for x, y in area.tiles()))

    def read(self, reader: Reader, rect: Rect) -> Planes:
        return reader.read_around(self.node, rect)


class Blocks(Grid):
    """A grid at 1/k of the level's size, kept in blocks that cover about `cover` pixels of the level."""

    def __init__(self, own: bytes, k: int, cover: int) -> None:
        self.own = own
        self.k = k
        self.side = max(SMALLEST_BLOCK, cover // k)

    def place(self, bx: int, by: int) -> Rect:
        """The pixels of a block."""
        return Rect(bx * self.side, by * self.side, self.side, self.side)

    @abstractmethod
    def source(self, rect: Rect) -> tuple[Grid, Rect]:
        """Which grid a rectangle is made from, and which rectangle of that."""

    @abstractmethod
    def make(self, reader: Reader, px: Planes) -> Planes:
        """A block from that rectangle."""

    def _block_key(self, reader: Reader, bx: int, by: int) -> bytes:
        def made() -> bytes:
            return digest(self.own, reader.place(bx, by), self.key(reader, self.place(bx, by)))

        return reader.remember((self, bx, by), made)

    def basis(self, rect: Rect) -> tuple[Node, Rect]:
        grid, source = self.source(rect)
        return grid.basis(source)

    def key(self, reader: Reader, rect: Rect) -> bytes:
        node, source = self.basis(rect)
        return digest(*(reader.key(node, x, y) for x, y in reader.within(source).tiles()))

    def block(self, reader: Reader, bx: int, by: int) -> Planes:
        """A block, made if it is not kept."""

        def make() -> Planes:
            grid, wide = self.source(self.place(bx, by))
            reader.counts["blocks"] += 1
            return self.make(reader, grid.read(reader, wide))

        return reader.cache.get_or(self._block_key(reader, bx, by), make)

    def read(self, reader: Reader, rect: Rect) -> Planes:
        out: Planes | None = None
        for bx, by in rect.tiles(self.side):
            block = self.block(reader, bx, by)
            if out is None:
                out = np.empty((block.shape[0], rect.h, rect.w), np.float32)
            part = rect.meet(self.place(bx, by))
            x, y = part.x - bx * self.side, part.y - by * self.side
            out[:, part.y - rect.y : part.bottom - rect.y, part.x - rect.x : part.right - rect.x] = block[
                :, y : y + part.h, x : x + part.w
            ]
        if out is None:
            raise ValueError("an empty rectangle was asked for")
        return out


class Reduced(Blocks):
    """A picture halved until it is at 1/k of its size."""

    def __init__(self, finer: Grid, k: int) -> None:
        super().__init__(digest("reduced", k), k, TILE // 2)
        self.finer = finer
        self.halvings = k.bit_length() - 1

    def source(self, rect: Rect) -> tuple[Grid, Rect]:
        for _ in range(self.halvings):
            rect = Rect(rect.x * 2, rect.y * 2, rect.w * 2, rect.h * 2).grown(1)
        return self.finer, rect

    def make(self, reader: Reader, px: Planes) -> Planes:
        for _ in range(self.halvings):
            px = gaussian.halved(px)
        return px


class Worked(Blocks):
    """What a kind makes of a grid."""

    def __init__(self, grid: Reduced, kind: Neighbourhood, settings: Values, own: bytes, step: float, k: int) -> None:
        super().__init__(digest("worked", own), k, TILE)
        self.grid = grid
        self.kind = kind
        self.settings = settings
        self.step = step

    def source(self, rect: Rect) -> tuple[Grid, Rect]:
        return self.grid, rect.grown(self.kind.reach(self.settings, self.step))

    def make(self, reader: Reader, px: Planes) -> Planes:
        return self.kind.around(self.settings, px, self.step)


class Surroundings(Node):
    """The colour a neighbourhood kind gives a picture; kept."""

    fleeting = True

    def __init__(self, kind: Neighbourhood, settings: Values, below: Node) -> None:
        super().__init__(digest("surroundings", kind.name, kind.schema.digest(settings)), kept=True)
        below.kept = True
        self.channels = below.channels
        self.kind = kind
        self.settings = settings
        self.below = below
        self._grids: dict[int, tuple[int, Grid]] = {}

    def _grid(self, reader: Reader) -> tuple[int, Grid]:
        """The reduction and the grid of the colour at the reader's level."""
        found = self._grids.get(reader.level)
        if found is None:
            k = self.kind.reduction(self.settings, reader.step)
            grid: Grid = Below(self.below)
            if k > 1:
                grid = Worked(Reduced(grid, k), self.kind, self.settings, self.own, reader.step, k)
            found = self._grids[reader.level] = (k, grid)
        return found

    def spread(self, reader: Reader) -> int:
        """How many pixels beyond a rectangle this looks, at the most, the blocks it looks at counted whole."""
        k = self.kind.reduction(self.settings, reader.step)
        reach = self.kind.reach(self.settings, reader.step)
        if k == 1:
            return reach
        blocks = max(SMALLEST_BLOCK * k, TILE) + max(SMALLEST_BLOCK * k, TILE // 2)
        return (reach + gaussian.ENLARGING_REACH + 2) * k + blocks

    def work(self, reader: Reader, rect: Rect) -> list[list[Work]]:
        """What is to be made for the tiles of a rectangle: lists to be done in order, each in any order."""
        k, grid = self._grid(reader)
        lists: list[list[Work]] = []
        source = self._source(rect, k, self.kind.reach(self.settings, reader.step))
        while isinstance(grid, Blocks):
            lists.append([partial(grid.block, reader, x, y) for x, y in source.tiles(grid.side)])
            grid, source = grid.source(source)
        return lists[::-1]

    def halving(self, reader: Reader, row: Rect) -> list[Work]:
        """What can be reduced once a row of tiles is there, also beyond the picture's borders, where it mirrors it:
        a row behind, for its blocks look a little further down."""
        _, grid = self._grid(reader)
        if not isinstance(grid, Worked):
            return []
        k, margin, bounds = grid.grid.k, self.spread(reader), reader.bounds
        left = row.x - (margin if row.x == 0 else 0)
        right = row.right + (margin if row.right == bounds.right else 0)
        bottom = row.bottom + margin if row.bottom == bounds.bottom else row.bottom - TILE
        areas = [Rect(left, row.y - TILE, right - left, bottom - row.y + TILE)]
        if bottom <= margin:
            areas.append(Rect(left, -bottom, right - left, TILE))
        small = [Rect.covering(a.x / k, a.y / k, a.right / k, a.bottom / k) for a in areas]
        places = {place for area in small for place in area.tiles(grid.grid.side)}
        return [partial(grid.grid.block, reader, x, y) for x, y in sorted(places)]

    def _source(self, rect: Rect, k: int, reach: int) -> Rect:
        if k == 1:
            return rect.grown(reach)
        left, top = rect.x // k, rect.y // k
        small = Rect(left, top, -(-rect.right // k) - left, -(-rect.bottom // k) - top)
        return small.grown(gaussian.ENLARGING_REACH)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        def made() -> bytes:
            k, grid = self._grid(reader)
            source = self._source(reader.tile_rect(tx, ty), k, self.kind.reach(self.settings, reader.step))
            return digest(self.own, reader.place(tx, ty), grid.key(reader, source))

        return reader.remember((self, tx, ty), made)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        k, grid = self._grid(reader)
        px = grid.read(reader, self._source(rect, k, self.kind.reach(self.settings, reader.step)))
        if k == 1:
            return self.kind.around(self.settings, px, reader.step)
        return gaussian.enlarged(px, k, rect.h, rect.w)
