"""What checks look at: a picture with its layers, measured at a level small enough to be quick, or in patches of full
size; and the same without one of its layers, so that the layer that does something is found and not guessed."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import NamedTuple, TypeVar

import numpy as np

from glyptic.analysis.difference import changes
from glyptic.base.rectangles import Rect
from glyptic.document.edits.layers import turned
from glyptic.document.values import Layer, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.pool import crew
from glyptic.engine.reader import Reader
from glyptic.engine.states import Ascent, colour
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space, tone

T = TypeVar("T")
SIDE = 1024
"""Work is measured at the first level whose longer side is at most this many pixels: about what a screen shows."""
STATES = 240 * 2**20
"""Bytes that the states of all layers may take up; more layers are measured at a coarser level."""
TILES = 96 * 2**20
PATCH = 96
"""Side of a patch of full size, in pixels."""
NOTHING = 1e-5
"""A change smaller than this is rounding."""


class State(NamedTuple):
    """A layer and what it does: what is below it and what is above, (3, h, w) of the measured level."""

    layer: Layer
    below: Planes
    above: Planes
    space: Space

    @property
    def changes(self) -> bool:
        return self.above is not self.below and bool(np.abs(self.above - self.below).max() > NOTHING)


class Blamed(NamedTuple):
    """The layer that does something, or None for nobody; and what is left without it."""

    layer: Layer | None
    left: float

    def says(self, does: str, number: str) -> str:
        """A sentence more, or ''. does: a verb with its object; number: of what is left, formatted."""
        return f" ‘{self.layer.name}’ {does}: without it {number}." if self.layer is not None else ""

    @property
    def mark(self) -> str:
        return self.layer.id if self.layer is not None else ""


@dataclass
class Subject:
    """plan_of: gives the plan of a stack. check: raises Stopped where nobody waits any more."""

    stack: Stack
    plan_of: Callable[[Stack], Plan]
    check: Callable[[], None] = lambda: None
    cache: TileCache = field(default_factory=lambda: TileCache(TILES))
    _finished: dict[int, Planes] = field(default_factory=dict)

    @cached_property
    def plan(self) -> Plan:
        return self.plan_of(self.stack)

    @property
    def space(self) -> Space:
        """The working space of every picture here."""
        return self.plan.space

    @cached_property
    def level(self) -> int:
        """The level that is measured."""
        canvas = self.plan.inner
        level, count = canvas.level_within(SIDE), sum(1 for _ in self.stack.walk())
        while level < canvas.deepest and canvas.at(level).w * canvas.at(level).h * 12 * count > STATES:
            level += 1
        return level

    @cached_property
    def reader(self) -> Reader:
        """Of what comes out."""
        return self.plan.reader(self.cache, min(self.level, self.plan.outer.deepest))

    def reader_of(self, layer: str) -> Reader:
        return self.plan.reader_of(layer, self.cache, min(self.level, self.plan.canvas_of(layer).deepest))

    @cached_property
    def before(self) -> Planes:
        """The base as it comes out."""
        return self._whole(self.plan.before)

    @cached_property
    def finished(self) -> Planes:
        return self._whole(self.plan.finished)

    def _whole(self, node: Node) -> Planes:
        return colour(self.reader, node, self.reader.bounds)

    @cached_property
    def states(self) -> Mapping[str, State]:
        """What every layer does, by its id, in the order of the stack."""
        plan, base = self.plan, self.stack.base.id
        found = dict(self._row(self.stack.layers[1:], plan.base, self.reader_of(base)))
        if plan.framed is not None or self.stack.sheet_layers:
            start = plan.framed if plan.framed is not None else plan.finished
            found |= dict(self._row(self.stack.sheet_layers, start, self.reader))
        return {layer.id: found[layer.id] for layer in self.stack.walk() if layer.id in found}

    def _row(self, layers: tuple[Layer, ...], start: Node, reader: Reader) -> Iterator[tuple[str, State]]:
        if any(layer.id not in self.plan.below for layer in layers):
            return  # what lies over the sheet of a frame that is off is not planned
        for layer, below, above in Ascent(self.plan, reader, reader.bounds).states(layers, start):
            self.check()
            yield layer.id, State(layer, below, above, self.space)

    def at_work(self) -> Iterator[State]:
        """The layers that change something, groups left out: what is in them tells more."""
        for state in self.states.values():
            if not state.layer.layers and state.changes:
                yield state

    def masked(self) -> Iterator[tuple[State, Plane]]:
        """The layers and groups that change something and have a mask, each with what that shows."""
        for state in self.states.values():
            mask = self.mask(state.layer.id) if state.changes else None
            if mask is not None:
                yield state, mask

    def mask(self, layer: str) -> Plane | None:
        """What a layer's mask shows, 0..1, at the measured level; None where it shows everything."""
        node = self.plan.masks.get(layer)
        reader = self.reader_of(layer)
        return None if node is None else reader.read(node, reader.bounds)[0]

    def full(self, rect: Rect, layer: str = "") -> Rect:
        """A rectangle of the measured level in full-size pixels."""
        return rect.scaled(int((self.reader_of(layer) if layer else self.reader).step))

    @cached_property
    def others(self) -> list[tuple[Layer, Stack]]:
        """Every layer that is at work, and the stack without it."""
        return [(state.layer, turned(self.stack, [state.layer.id], False)) for state in self.at_work()]

    @cached_property
    def _kept(self) -> set[int]:
        """Of which stacks what comes out is remembered: those without a layer, where they are not too many."""
        size = self.reader.bounds.w * self.reader.bounds.h * 12
        return {id(stack) for _, stack in self.others} if len(self.others) * size <= STATES else set()

    def finished_of(self, stack: Stack) -> Planes:
        """What comes out of another stack of the same picture and frame, at the measured level."""
        self.check()
        known = self._finished.get(id(stack))
        if known is not None:
            return known
        made = self._whole(self.plan_of(stack).finished)
        if id(stack) in self._kept:
            self._finished[id(stack)] = made
        return made

    def together(self, works: Iterable[Callable[[], T]]) -> list[T]:
        """What several works give, done on all processors."""
        found = []
        with crew() as threads:
            for given in [threads.submit(work) for work in works]:
                self.check()
                found.append(given.result())
        return found

    def patch(self, rect: Rect, stack: Stack | None = None) -> Planes:
        """Full-size pixels of what comes out, of this stack or another."""
        self.check()
        plan = self.plan if stack is None else self.plan_of(stack)
        reader = plan.reader(self.cache, 0)
        return colour(reader, plan.finished, rect.meet(reader.bounds))

    def patch_before(self, rect: Rect) -> Planes:
        """Full-size pixels of the base as it comes out."""
        reader = self.plan.reader(self.cache, 0)
        return colour(reader, self.plan.before, rect.meet(reader.bounds))

    def patches(self, worth: Plane, most: int, least: float) -> list[Rect]:
        """The places of full size where something of the measured level, (h, w) of what comes out, is worth most: at
        most so many, each worth at least so much, no two in the same place."""
        size = int(self.reader.step)
        across = max(1, PATCH // size)
        rows, columns = worth.shape[0] // across, worth.shape[1] // across
        if not rows or not columns:
            return []
        squares = worth[: rows * across, : columns * across].reshape(rows, across, columns, across).min((1, 3))
        order = np.argsort(-squares, axis=None)[: most * SPREAD]
        chosen: list[tuple[int, int]] = []
        for at in order:
            row, column = divmod(int(at), columns)
            far = all(max(abs(row - r), abs(column - c)) >= APART for r, c in chosen)
            if squares[row, column] >= least and far:
                chosen.append((row, column))
            if len(chosen) == most:
                break
        bounds = self.plan.outer.at(0)
        return [Rect(c * across * size, r * across * size, PATCH, PATCH).meet(bounds) for r, c in chosen]

    def blamed(self, measure: Callable[[Stack], float], most: float) -> Blamed:
        """The layer without which a measure is least, where it is then at most so much; else nobody."""
        left = self.together(partial(measure, stack) for _, stack in self.others)
        found = [(amount, i, layer) for i, ((layer, _), amount) in enumerate(zip(self.others, left, strict=True))]
        least, _, layer = min(found, key=lambda one: one[:2], default=(0.0, 0, None))
        return Blamed(layer, least) if layer is not None and least <= most else Blamed(None, 0.0)

    def weakened(self, layer: Layer | None, measure: Callable[[Stack], float], most: float) -> float | None:
        """The highest opacity of a layer, of a few, at which a measure is at most so much; None where none is."""
        if layer is None:
            return None
        for share in WEAKER:
            opacity = round(layer.opacity * share, 2)
            if measure(self.stack.replaced(replace(layer, opacity=opacity))) <= most:
                return opacity
        return None


WEAKER = (0.75, 0.5, 0.35, 0.2)
"""Shares of its opacity that a layer is tried at, until it no longer does what it is found at fault for."""
SPREAD, APART = 40, 2
"""How many squares are looked at for each patch, and how many squares two patches lie apart at least."""


def tones(px: Planes, space: Space) -> Plane:
    """Tone of what is shown: values beyond 0..1 are cut."""
    return tone(np.clip(px, 0, 1), space)


def apart(before: Planes, after: Planes, space: Space) -> Plane:
    """CIEDE2000 of every pixel."""
    return changes(before, after, space)[0]
