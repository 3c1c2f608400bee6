"""The values made last, by key."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


class Recent(Generic[K, V]):
    """At most `most` values, the least recently used dropped first; safe to use from several threads."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._values: OrderedDict[K, V] = OrderedDict()
        self._lock = Lock()

    def get(self, key: K) -> V | None:
        with self._lock:
            if key not in self._values:
                return None
            self._values.move_to_end(key)
            return self._values[key]

    def put(self, key: K, value: V) -> V:
        with self._lock:
            self._values[key] = value
            self._values.move_to_end(key)
            while len(self._values) > self._most:
                self._values.popitem(last=False)
            return value

    def clear(self) -> None:
        with self._lock:
            self._values.clear()

    def drop(self, key: K) -> None:
        """Forget a value; nothing where there is none."""
        with self._lock:
            self._values.pop(key, None)

    def get_or(self, key: K, make: Callable[[], V]) -> V:
        found = self.get(key)
        return found if found is not None else self.put(key, make())
