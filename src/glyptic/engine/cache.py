"""Tiles by key, least recently used dropped first, within a budget of bytes."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from threading import Event, Lock, get_ident
from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

Array = NDArray[Any]
T = TypeVar("T")
TABLES = 64 * 2**20
"""Bytes of what was made of settings that are kept, unless said."""


Deep = Callable[[bytes], Array | None]
"""Gives the tile of a key from a store that lies deeper (on disk, say), or None."""


LEAST_WEIGHT = 256
"""Bytes that anything counts for."""


def weight(made: object) -> int:
    """About how many bytes something takes up that is made of arrays."""
    if isinstance(made, np.ndarray):
        return LEAST_WEIGHT + made.nbytes
    parts = made if isinstance(made, tuple | list) else vars(made).values() if hasattr(made, "__dict__") else ()
    return LEAST_WEIGHT + sum(weight(part) for part in parts)


@dataclass(frozen=True)
class UnderWay:
    """A tile that is being made: by which thread, and whether it is done."""

    by: int
    done: Event = field(default_factory=Event)


class TileCache:
    """A mapping from keys to arrays that are never written again; safe to use from several threads.

    `counts` tells the work done: hits, misses (tiles computed), dropped. What a step makes of its settings (tables) is
    remembered here too, so that a plan made anew does not make them again. once: whether it serves a single going
    through from top to bottom, which may drop what it is past.
    """

    def __init__(
        self, budget: int = 512 * 2**20, deep: Deep | None = None, once: bool = False, tables: int = TABLES
    ) -> None:
        self.budget = budget
        self.tables = tables
        self.deep = deep
        self.once = once
        self.counts: Counter[str] = Counter()
        self._tiles: OrderedDict[bytes, Array] = OrderedDict()
        self._coming: dict[bytes, UnderWay] = {}
        self._bytes = 0
        self._ready: OrderedDict[bytes, Any] = OrderedDict()
        self._ready_bytes = 0
        self._lock = Lock()

    def ready(self, key: bytes, make: Callable[[], T]) -> T:
        """What was made for a key before, or is made now; those used last are remembered, within `tables` bytes."""
        with self._lock:
            if key in self._ready:
                self._ready.move_to_end(key)
                return cast(T, self._ready[key])
        made = make()
        with self._lock:
            if key not in self._ready:
                self._ready[key] = made
                self._ready_bytes += weight(made)
            while self._ready_bytes > self.tables and len(self._ready) > 1:
                self._ready_bytes -= weight(self._ready.popitem(last=False)[1])
        return made

    def get(self, key: bytes) -> Array | None:
        with self._lock:
            tile = self._found(key)
            if tile is None:
                self.counts["misses"] += 1
            return tile

    def get_or(self, key: bytes, make: Callable[[], Array], durable: bool = False) -> Array:
        """The tile of a key, made if it is not here; two threads that want the same one make it once.
        A durable one is looked for in the deep store first.

        Nobody waits for ever: who waits for a tile wants it as an input, and no tile is an input of its own inputs.
        (A node that changes nothing on a tile has the key of the one below it; the thread at work then goes on.)
        """
        while True:
            with self._lock:
                found = self._found(key)
                if found is not None:
                    return found
                under_way = self._coming.get(key)
                if under_way is None:
                    self.counts["misses"] += 1
                    mine = self._coming[key] = UnderWay(get_ident())
                    break
            if under_way.by == get_ident():
                return make()
            under_way.done.wait()
        try:
            made = self.deep(key) if durable and self.deep is not None else None
            if made is None:
                made = make()
            else:
                self.counts["fetched"] += 1
            self.put(key, made)
            return made
        finally:
            with self._lock:
                self._coming.pop(key)
            mine.done.set()

    def _found(self, key: bytes) -> Array | None:
        tile = self._tiles.get(key)
        if tile is not None:
            self._tiles.move_to_end(key)
            self.counts["hits"] += 1
        return tile

    def peek(self, key: bytes) -> Array | None:
        """As `get`, for looking whether an earlier state is here or in the deep store: a miss is not counted."""
        with self._lock:
            found = self._tiles.get(key)
        if found is None and self.deep is not None:
            found = self.deep(key)
            if found is not None:
                self.counts["fetched"] += 1
                self.put(key, found)
        return found

    def put(self, key: bytes, tile: Array) -> None:
        with self._lock:
            if key in self._tiles:
                return
            self._tiles[key] = tile
            self._bytes += tile.nbytes
            while self._bytes > self.budget and len(self._tiles) > 1:
                _, old = self._tiles.popitem(last=False)
                self._bytes -= old.nbytes
                self.counts["dropped"] += 1

    def drop(self, keys: Iterable[bytes]) -> None:
        """Forget tiles that nobody will ask for again."""
        with self._lock:
            for key in keys:
                tile = self._tiles.pop(key, None)
                if tile is not None:
                    self._bytes -= tile.nbytes
                    self.counts["let go"] += 1

    @property
    def bytes(self) -> int:
        """What the tiles take up."""
        return self._bytes

    @property
    def table_bytes(self) -> int:
        """What was made of settings takes up."""
        return self._ready_bytes
