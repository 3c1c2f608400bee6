"""Settling: painted tiles of every level are made and kept on disk while the hand rests.

So a plate with thousands of strokes opens and exports without laying them again.
"""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import partial
from threading import Condition, Event, Thread

from glyptic.actions.workshop import Workshop
from glyptic.document.values import Stack
from glyptic.engine.cache import Array, TileCache
from glyptic.engine.heap import give_back
from glyptic.engine.nodes import PlaneNode
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.reader import Reader

REST = 0.4
"""Seconds without a request after which the hand counts as resting."""
LOOK_AGAIN = 0.05
"""Seconds until it is looked again whether a request has been answered."""
SCRATCH = 64 * 2**20
BATCH = 16


@dataclass
class Settler:
    """Settles the newest state of each plate that was worked on, in the background, one tile after the other.

    It gives way: while requests come, it waits. finished: set whenever nothing is left to do. at_work: requests that
    have not been answered yet.
    """

    workshop: Workshop
    finished: Event = field(default_factory=Event)
    at_work: int = 0
    _waiting: dict[int, tuple[Stack, float]] = field(default_factory=dict)
    _touched: float = 0.0
    _turn: Condition = field(default_factory=Condition)
    _thread: Thread | None = None

    def touch(self) -> None:
        """Somebody is at work: wait for a rest."""
        self._touched = time.monotonic()

    def arrive(self) -> None:
        """A request has come: somebody is at work until it has been answered (`leave`)."""
        with self._turn:
            self.at_work += 1
        self.touch()

    def leave(self) -> None:
        with self._turn:
            self.at_work -= 1
        self.touch()

    def rest(self, most: float = math.inf) -> None:
        """Wait until nobody has been at work for a while; at most so many seconds."""
        until = time.monotonic() + most
        while (left := self._touched + REST - time.monotonic()) > 0 or self.at_work:
            if time.monotonic() > until:
                return
            time.sleep(max(left, LOOK_AGAIN))

    def soon(self, plate_id: int, stack: Stack, level: float = 0) -> None:
        """Settle a state when there is time; an older one of the same plate is given up. level: that of the screen."""
        with self._turn:
            self._waiting[plate_id] = stack, level
            self.finished.clear()
            if self._thread is None:
                self._thread = Thread(target=self._run, name="settle", daemon=True)
                self._thread.start()
            self._turn.notify()

    def _run(self) -> None:
        while True:
            with self._turn:
                if not self._waiting:
                    self.finished.set()
                self._turn.wait_for(lambda: self._waiting)
                plate_id, (stack, level) = self._waiting.popitem()
            try:
                settle(self.workshop, stack, partial(self._go_on, plate_id), level)
                give_back()
            except Exception:
                logging.getLogger(__name__).exception("Painted tiles could not be kept; they are made when needed.")

    def _go_on(self, plate_id: int) -> bool:
        """Wait for a rest; whether the state is still the newest one."""
        self.rest()
        return plate_id not in self._waiting


def settle(workshop: Workshop, stack: Stack, go_on: Callable[[], bool] = lambda: True, level: float = 0) -> int:
    """Keep the painted tiles of a state on disk, those of the screen's level first, then the smallest; returns how many
    were made.

    go_on: asked before each tile; False ends it.
    """
    plan = make_plan(stack, workshop.pictures_of(stack), workshop.chains)
    scratch = TileCache(SCRATCH, workshop.tiles.peek)
    kept = workshop.store.tiles
    made = 0
    for reader, painted in _every_level(plan, scratch, level):
        batch: dict[bytes, Array] = {}
        for node, tx, ty in _missing(workshop, reader, painted):
            if not go_on():
                kept.put(batch)
                return made
            batch[reader.key(node, tx, ty)] = reader.tile(node, tx, ty)
            made += 1
            if len(batch) == BATCH:
                kept.put(batch)
                batch = {}
        kept.put(batch)
    return made


def _every_level(plan: Plan, cache: TileCache, first: float) -> Iterator[tuple[Reader, list[PlaneNode]]]:
    for canvas, painted in plan.every_painting:
        for level in dict.fromkeys((min(first, canvas.deepest), *range(canvas.deepest, -1, -1))):
            yield Reader(cache, canvas, level), painted


def _missing(workshop: Workshop, reader: Reader, nodes: list[PlaneNode]) -> Iterator[tuple[PlaneNode, int, int]]:
    """(node, column, row) of every painted tile that is not on disk."""
    for node in nodes:
        if node.durable:
            for tx, ty in reader.bounds.tiles():
                if reader.key(node, tx, ty) not in workshop.store.tiles:
                    yield node, tx, ty
