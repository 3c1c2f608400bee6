"""What a neighbourhood step looks at: the picture below, whole or reduced, in blocks that neighbours share.

A wide blur runs on a picture halved again and again. Each halving, and the blur of the smallest, is kept in blocks
that cover a tile (or, far down, more), so that each is worked out once, whichever tiles ask for it. The grids are anchored at
the picture's origin and go on beyond its borders, where the picture is half-sample symmetric.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from functools import partial

import numpy as np

from glyptic.adjust.kind import Neighbourhood
from glyptic.base.digests import digest, digest_plain
from glyptic.base.rectangles import TILE, Rect
from glyptic.engine.reader import Node, Reader
from glyptic.params import Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Planes

SMALLEST_BLOCK = 32
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
    """A grid kept in blocks of `side` pixels, at 1/k of the level's size."""

    def __init__(self, own: bytes, k: int) -> None:
        self.own = own
        self.side = max(SMALLEST_BLOCK, TILE // k)

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

        return reader.remember((id(self), bx, by), made)

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


class Halved(Blocks):
    """Half the size of another grid."""

    def __init__(self, finer: Grid, k: int) -> None:
        super().__init__(digest("halved", k), k)
        self.finer = finer

    def source(self, rect: Rect) -> tuple[Grid, Rect]:
        return self.finer, Rect(rect.x * 2, rect.y * 2, rect.w * 2, rect.h * 2).grown(1)

    def make(self, reader: Reader, px: Planes) -> Planes:
        return gaussian.halved(px)


class Worked(Blocks):
    """What a kind makes of a grid."""

    def __init__(self, grid: Grid, kind: Neighbourhood, settings: Values, own: bytes, step: float, k: int) -> None:
        super().__init__(digest("worked", own), k)
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
        super().__init__(digest("surroundings", kind.name, digest_plain(kind.schema.plain(settings))), kept=True)
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
            for halving in range(1, k.bit_length()):
                grid = Halved(grid, 1 << halving)
            if k > 1:
                grid = Worked(grid, self.kind, self.settings, self.own, reader.step, k)
            found = self._grids[reader.level] = (k, grid)
        return found

    def spread(self, reader: Reader) -> int:
        """How many pixels beyond a rectangle this looks, at the most, the blocks it looks at counted whole."""
        k = self.kind.reduction(self.settings, reader.step)
        reach = self.kind.reach(self.settings, reader.step)
        if k == 1:
            return reach
        blocks = sum(max(TILE, SMALLEST_BLOCK << n) for n in range(1, k.bit_length()))
        return (reach + gaussian.ENLARGING_REACH + 1) * k + blocks

    def work(self, reader: Reader, rect: Rect) -> list[list[Work]]:
        """What is to be made for the tiles of a rectangle: lists to be done in order, each in any order."""
        k, grid = self._grid(reader)
        lists: list[list[Work]] = []
        source = self._source(rect, k, self.kind.reach(self.settings, reader.step))
        while isinstance(grid, Blocks):
            lists.append([partial(grid.block, reader, x, y) for x, y in source.tiles(grid.side)])
            grid, source = grid.source(source)
        return lists[::-1]

    def halving(self, reader: Reader, row: Rect) -> list[list[Work]]:
        """The halvings that can be made once a row of tiles is there, also beyond the picture's borders, where they
        mirror it: each lags a row behind what it is made from. Lists to be done in order, each in any order."""
        _, grid = self._grid(reader)
        halved: list[Halved] = []
        while isinstance(grid, Blocks):
            if isinstance(grid, Halved):
                halved.append(grid)
            grid, _ = grid.source(row)
        margin = self.spread(reader)
        lists: list[list[Work]] = []
        for n, blocks in enumerate(reversed(halved), 1):
            wide = Rect(-margin, row.y - n * TILE, reader.bounds.w + 2 * margin, TILE)
            above = wide._replace(y=-wide.bottom) if wide.bottom <= margin else None
            if row.bottom == reader.bounds.bottom:
                wide = wide._replace(h=row.bottom + margin - wide.y)
            places = {place for area in (wide, above) if area for place in area.at_level(n).tiles(blocks.side)}
            lists.append([partial(blocks.block, reader, x, y) for x, y in sorted(places)])
        return lists

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

        return reader.remember((id(self), tx, ty), made)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        k, grid = self._grid(reader)
        px = grid.read(reader, self._source(rect, k, self.kind.reach(self.settings, reader.step)))
        if k == 1:
            return self.kind.around(self.settings, px, reader.step)
        return gaussian.enlarged(px, k, rect.h, rect.w)
