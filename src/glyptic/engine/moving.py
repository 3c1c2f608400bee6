"""A rectangle of a view while something moves: what changes with every frame is worked out where it is seen, once, and
held for that frame alone; what does not change is read as ever.

What a layer looks around for is gathered up to COARSER levels further out, as far as its window stays a pixel wide
there. That is off by a few ten-thousandths, at hard edges by about one 8-bit code (tests/engine/test_moving.py), and
gone when the hand rests.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import Protocol

import numpy as np

from glyptic.base.rectangles import TILE, Rect
from glyptic.document.values import Stack
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Laid, Reader
from glyptic.engine.surroundings import STEP_AND_SURROUNDINGS, Surroundings
from glyptic.pixels.compiled import Planes
from glyptic.pixels.gaussian import ENLARGING_REACH, folded, reflected
from glyptic.pixels.quantise import Samples, canvas, onto_canvas

COARSER = 3
"""Levels further out at the most."""
LEAST = TILE // 2
"""Pixels across of the smallest piece: each costs the same calls."""
Work = Callable[[], object]


def _over(plan: Plan, layer: str) -> list[str]:
    """The layers that look around themselves at what a layer changes, the lowest first."""
    order = list(plan.layers)
    if layer not in plan.layers:
        return []
    inside = {one.id for one in Stack(plan.layers[layer].layers).walk()}
    later = set(order[order.index(layer) + 1 :]) - inside
    found = [one for one in plan.surroundings if one in later]
    return [one for one in found if plan.surroundings[one].below.watchers <= STEP_AND_SURROUNDINGS]


def _cuts(start: int, end: int) -> list[int]:
    """Where a length is cut: at the edges of tiles, and into nothing much smaller than a tile."""
    edges = [
        edge for edge in range((start // TILE + 1) * TILE, end, TILE) if edge - start >= LEAST and end - edge >= LEAST
    ]
    return [start, *edges, end]


def pieces(rect: Rect) -> Iterator[Rect]:
    """The pieces that a rectangle is worked out in."""
    for top, bottom in pairwise(_cuts(rect.y, rect.bottom)):
        for left, right in pairwise(_cuts(rect.x, rect.right)):
            yield Rect(left, top, right - left, bottom - top)


class Hands(Protocol):
    """Who works: a crew, or one hand alone."""

    def all(self, work: Iterable[Callable[[], object]]) -> None:
        """Have several things done; returns when all are."""


class _OneHand:
    def all(self, work: Iterable[Callable[[], object]]) -> None:
        for one in work:
            one()


ONE_HAND = _OneHand()


@dataclass
class Moving:
    """One frame of a plan in which a layer moves."""

    plan: Plan
    reader: Reader
    layer: str
    hands: Hands

    def __post_init__(self) -> None:
        over = _over(self.plan, self.layer)
        on_sheet = [one for one in over if one in self.plan.on_sheet]
        self._sheet = [self.plan.surroundings[one] for one in on_sheet]
        self._picture = [self.plan.surroundings[one] for one in over if one not in self.plan.on_sheet]
        steps = (*self._sheet, *self._picture)
        loose: set[Node] = {*steps, *(step.below for step in steps)}
        if self.plan.framed is not None and self.layer in self.plan.layers and self.layer not in self.plan.on_sheet:
            loose.add(self.plan.framed.inner)
        self.reader = replace(self.reader, laid={}, loose=frozenset(loose))

    @property
    def held(self) -> list[Surroundings]:
        """What layers over the one that moves gather on what comes out: it is held still under a stroke."""
        return self._picture if self.plan.framed is None else self._sheet

    def planes(self, node: Node, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle of a node of what comes out."""
        self.prepare(rect)
        return self._drawn(self.reader, node, rect)

    def codes(self, node: Node, rect: Rect) -> Samples:
        """(h, w, 4) 8-bit codes of the same, for a canvas: three channels, and all there."""
        self.prepare(rect)
        out = canvas(rect.h, rect.w)

        def draw(part: Rect) -> None:
            onto_canvas(self.reader.read(node, part), part.x - rect.x, part.y - rect.y, out)

        self.hands.all([partial(draw, piece) for piece in pieces(rect)])
        return out

    def prepare(self, rect: Rect) -> None:
        """Work out what a frame of a rectangle gathers, and so keep what lies below that."""
        framed = self.plan.framed
        if framed is None:
            return self._make_ready(self.reader, rect, self._picture)
        on_sheet = self._looked_at(self.reader, rect, self._sheet)
        area, inside = framed.needs(self.reader, on_sheet), framed.inside(self.reader)
        if framed.inner in self.reader.loose and not area.empty:
            self._make_ready(inside, area, self._picture)
            self._lay(inside, framed.inner, area)
        return self._make_ready(self.reader, rect, self._sheet)

    def _drawn(self, reader: Reader, node: Node, rect: Rect, besides: Sequence[Work] = ()) -> Planes:
        """besides: what is done at the same time."""
        out = np.empty((node.channels, rect.h, rect.w), np.float32)

        def draw(part: Rect) -> None:
            x, y = part.x - rect.x, part.y - rect.y
            out[:, y : y + part.h, x : x + part.w] = reader.read(node, part)

        self.hands.all([*besides, *(partial(draw, piece) for piece in pieces(rect))])
        return out

    def _lay(self, reader: Reader, node: Node, rect: Rect, besides: Sequence[Work] = ()) -> None:
        if reader.has_laid(node, rect):
            self.hands.all(besides)
        else:
            reader.lay(node, Laid(rect, self._drawn(reader, node, rect, besides)))

    def _further_out(self, reader: Reader, step: Surroundings) -> int:
        """By how many levels what a step gathers is gathered further out."""
        room = int(reader.canvas.deepest - reader.level)
        return max(0, min(step.coarser(reader), COARSER, room))

    def _looked_at(self, reader: Reader, rect: Rect, steps: list[Surroundings]) -> Rect:
        """What has to be there at the reader's own level, below the lowest of some steps, for a rectangle."""
        for step in reversed(steps):
            if not self._further_out(reader, step):
                rect = rect.join(reader.within(step.basis(reader, rect)))
        return rect

    def _make_ready(self, reader: Reader, rect: Rect, steps: list[Surroundings]) -> None:
        """Work out what steps, the lowest first, gather for a rectangle."""
        areas = [self._looked_at(reader, rect, steps[i + 1 :]) for i in range(len(steps))]
        further = [i for i, step in enumerate(steps) if self._further_out(reader, step)]
        here = [i for i in range(len(steps)) if i not in further]
        first = here[0] if here else len(steps)

        def gather(hands: Moving, i: int) -> None:
            hands._gather(reader, steps[i], areas[i], steps[:i])

        alone = replace(self, hands=ONE_HAND)
        below, above = ([i for i in reversed(further) if (i < first) is it] for it in (True, False))
        if len(below) > 1:
            self.hands.all([partial(gather, alone, i) for i in below])
        else:
            for i in below:
                gather(self, i)
        besides = [partial(gather, alone, i) for i in above]
        for i in here:
            self._lay(reader, steps[i].below, reader.within(steps[i].basis(reader, areas[i])), besides)
            besides = []

    def _gather(self, reader: Reader, step: Surroundings, area: Rect, lower: list[Surroundings]) -> None:
        """What a step gathers for an area, of a picture further out."""
        by = self._further_out(reader, step)
        k, coarse = 1 << by, reader.on(reader.canvas, reader.level + by)
        small = Rect.covering(area.x / k, area.y / k, area.right / k, area.bottom / k).grown(ENLARGING_REACH)
        inside = coarse.within(small)
        below = coarse.within(step.basis(coarse, inside))
        self._make_ready(coarse, below, lower)
        self._lay(coarse, step.below, below)
        px = self._drawn(coarse, step, inside)
        ys = reflected(small.y, small.h, coarse.bounds.h) - inside.y
        xs = reflected(small.x, small.w, coarse.bounds.w) - inside.x
        reader.lay(step, Laid(small, folded(px, ys, xs), k))
