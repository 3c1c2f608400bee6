"""Going through a picture once, from top to bottom, band by band on several threads."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import Future
from dataclasses import dataclass
from functools import partial

import numpy as np

from glyptic.base.rectangles import TILE, Rect, tile_rect
from glyptic.engine.framed import Framed
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.pool import Crew
from glyptic.engine.reader import Reader
from glyptic.engine.steps import Base
from glyptic.engine.surroundings import STEP_AND_SURROUNDINGS, Surroundings
from glyptic.pixels.compiled import Planes
from glyptic.pixels.quantise import Samples, narrowed, to_codes

Codes = Callable[[Planes, int, Rect], Samples]
"""Values (3, h, w) of the working space, bits, and which pixels of the level they are: codes (h, w, channels)."""


Kept = Callable[[Reader, Node, int, int], Samples | None]
"""Gives the 16-bit codes (h, w, 3) of a full-size tile of a node, where they were made before."""


def plain_codes(px: Planes, depth: int, rect: Rect) -> Samples:
    """Codes of the working space itself."""
    return to_codes(px, depth)


FULL_DEPTH = 16
"""Bits in which a base that nothing is done to comes out code by code."""
BEHIND = 2 * TILE
"""Blocks are reduced a row behind (see `Surroundings.reducing`) and look half a tile further up."""


def _whole_tiles(rect: Rect) -> Rect:
    """The tiles a rectangle touches."""
    x, y = rect.x // TILE * TILE, rect.y // TILE * TILE
    return Rect(x, y, -(-rect.right // TILE) * TILE - x, -(-rect.bottom // TILE) * TILE - y)


@dataclass
class _Stage:
    """The neighbourhood steps over one canvas, the lowest first, and how far they have got with what they look at.

    whole: what is drawn in the end, as far as this canvas goes. downwards: whether it is needed row by row from the
    top; else all of it is made at once.
    """

    steps: list[Surroundings]
    reader: Reader
    whole: Rect
    downwards: bool = True

    def __post_init__(self) -> None:
        self.wanted = self.looked_at(self.whole)
        self._done = [0] * len(self.steps)
        self._past = [0] * len(self.steps)

    def looked_at(self, rect: Rect) -> list[Rect]:
        """What is needed of what is below each step, the lowest first, for a rectangle; then that rectangle itself."""
        needed = rect.meet(self.reader.bounds)
        areas = [needed]
        for step in reversed(self.steps):
            looked_at = self.reader.within(step.basis(self.reader, _whole_tiles(needed)))
            needed = looked_at.join(needed).meet(self.reader.bounds)
            areas.insert(0, needed)
        return areas

    def prepare(self, rect: Rect, hands: Crew) -> None:
        """What lies below is made row of tiles by row of tiles and halved at once, so that a wide blur need not hold
        on to all it looks at."""
        if not self.steps or rect.empty:
            return
        *areas, needed = self.looked_at(rect) if self.downwards else self.wanted
        for i, (step, wide) in enumerate(zip(self.steps, areas, strict=True)):
            wanted, across = _whole_tiles(self.wanted[i + 1]), self.wanted[i]
            while self._done[i] < wide.bottom:
                top = self._done[i] or wide.y // TILE * TILE
                row = Rect(across.x, top, across.w, TILE).meet(self.reader.bounds)
                hands.all([partial(self.reader.tile, step.below, x, y) for x, y in row.tiles()])
                hands.all(step.reducing(self.reader, row, wanted))
                self._done[i] = row.bottom
        for step in self.steps:
            hands.all(step.work(self.reader, _whole_tiles(needed).meet(self.reader.bounds)))

    def let_go(self, bottom: int) -> None:
        """Drop the rows of tiles that were made for a step to look at and that it is past, above the row `bottom` of
        the canvas. What others look at too is left alone."""
        for i, step in enumerate(self.steps):
            if step.below.watchers > STEP_AND_SURROUNDINGS or not self.downwards:
                continue
            next_row = self._done[i + 1] if i + 1 < len(self.steps) else bottom
            to = min(next_row, self._done[i] - BEHIND) // TILE * TILE
            if to > self._past[i]:
                rows = Rect(self.whole.x, self._past[i], self.whole.w, to - self._past[i]).meet(self.reader.bounds)
                self.reader.cache.drop(self.reader.key(step.below, x, y) for x, y in _whole_tiles(rows).tiles())
                self._past[i] = to


@dataclass
class Bands:
    """The rows of tiles of a rectangle, one band after the other, each worked on by several threads.

    Before a band is drawn, what its neighbourhood steps look at is made, the lowest step first, so that no thread
    waits for a tile another one is making: those of the picture, and then those of the sheet.
    """

    plan: Plan
    reader: Reader
    node: Node
    rect: Rect
    depth: int
    crew: Crew
    codes: Codes = plain_codes
    kept: Kept | None = None

    def __post_init__(self) -> None:
        plan, framed = self.plan, self.plan.framed
        steps = plan.surroundings.items()
        over = [step for layer, step in steps if framed is None or layer in plan.on_sheet]
        self._sheet = _Stage(over, self.reader, self.rect)
        self._picture: _Stage | None = None
        if framed is not None:
            below = [step for layer, step in steps if layer not in plan.on_sheet]
            whole = framed.needs(self.reader, self._sheet.wanted[0])
            upright = framed.geometry.falls(self.reader.level)
            self._picture = _Stage(below, framed.inside(self.reader), whole, upright)

    def __iter__(self) -> Iterator[tuple[Rect, list[Future[Samples]]]]:
        """(rectangle, its tiles' codes (h, w, 3) to come, from left to right) of each band."""
        top = self.rect.y
        while top < self.rect.bottom:
            bottom = min((top // TILE + 1) * TILE, self.rect.bottom)
            band = Rect(self.rect.x, top, self.rect.w, bottom - top)
            here = {place: codes for place in band.tiles() if (codes := self._here(*place)) is not None}
            if len(here) < len(list(band.tiles())):
                self._prepare(band)
            yield band, [self.crew.submit(self._draw, x, y, band, here.get((x, y))) for x, y in band.tiles()]
            top = bottom
            if self.reader.cache.once:
                self._let_go(bottom)

    def _here(self, tx: int, ty: int) -> Samples | None:
        """The codes of a tile, where they were made before and are wanted as they are."""
        if self.kept is None or self.reader.level or self.codes is not plain_codes:
            return None
        codes = self.kept(self.reader, self.node, tx, ty)
        if codes is None or self.depth == FULL_DEPTH:
            return codes
        narrow = np.empty(codes.shape, np.uint8)
        narrowed(codes, narrow)
        return narrow

    def _draw(self, tx: int, ty: int, band: Rect, here: Samples | None) -> Samples:
        """Part of a tile; the whole of it is worked out, so that no pixel depends on what was asked for. What a frame
        makes of the picture's tiles does not depend on that."""
        part = tile_rect(tx, ty).meet(band)
        if here is not None:
            at = self.reader.tile_rect(tx, ty)
            return here[part.y - at.y : part.bottom - at.y, part.x - at.x : part.right - at.x]
        if (
            self.depth == FULL_DEPTH
            and isinstance(self.node, Base)
            and self.reader.is_whole
            and self.codes is plain_codes
        ):
            return self.node.picture.colour.interleaved(part, int(self.reader.level))
        tile = part if isinstance(self.node, Framed) else self.reader.tile_rect(tx, ty)
        px = self.reader.read(self.node, tile)
        inside = px[:, part.y - tile.y : part.bottom - tile.y, part.x - tile.x : part.right - tile.x]
        return self.codes(inside, self.depth, part)

    def _prepare(self, band: Rect) -> None:
        if self._picture is not None and self.plan.framed is not None:
            below = self._sheet.looked_at(band)[0]
            if not isinstance(self.node, Framed):
                below = _whole_tiles(below).meet(self.reader.bounds)
            area, inside = self.plan.framed.needs(self.reader, below), self._picture.reader
            self._picture.prepare(area, self.crew)
            if self.node is self.plan.finished:
                self.crew.all([partial(inside.tile, self.plan.framed.inner, x, y) for x, y in area.tiles()])
        self._sheet.prepare(band, self.crew)

    def _let_go(self, bottom: int) -> None:
        self._sheet.let_go(bottom)
        if self._picture is not None and self.plan.framed is not None and bottom < self.rect.bottom:
            rest = self._sheet.looked_at(Rect(self.rect.x, bottom, self.rect.w, self.rect.bottom - bottom))[0]
            self._picture.let_go(self.plan.framed.needs(self.reader, rest).y)
