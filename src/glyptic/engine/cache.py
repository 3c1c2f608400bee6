"""Tiles by key, least recently used dropped first, within a budget of bytes."""

from __future__ import annotations

from collections import Counter, OrderedDict
from threading import Lock
from typing import Any

from numpy.typing import NDArray

Array = NDArray[Any]


class TileCache:
    """A mapping from keys to arrays that are never written again; safe to use from several threads.

    `counts` tells the work done: hits, misses (tiles computed), dropped.
    """

    def __init__(self, budget: int = 512 * 2**20) -> None:
        self.budget = budget
        self.counts: Counter[str] = Counter()
        self._tiles: OrderedDict[bytes, Array] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()

    def get(self, key: bytes) -> Array | None:
        with self._lock:
            tile = self._tiles.get(key)
            if tile is None:
                self.counts["misses"] += 1
                return None
            self._tiles.move_to_end(key)
            self.counts["hits"] += 1
            return tile

    def peek(self, key: bytes) -> Array | None:
        """As `get`, for looking whether an earlier state is there: a miss is not counted."""
        with self._lock:
            return self._tiles.get(key)

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

    @property
    def bytes(self) -> int:
        return self._bytes
