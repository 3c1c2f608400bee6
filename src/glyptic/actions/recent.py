"""The values made last, by key."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Generic, TypeVar

K = TypeVar("K", bound=Hashable)
V = TypeVar("V")


def _nothing(value: object) -> int:
    return 0


class Recent(Generic[K, V]):
    """At most `most` values, and within `budget` of what `weigh` says of them, the least recently used dropped first;
    the newest stays whatever it weighs. Safe to use from several threads."""

    def __init__(self, most: int, budget: int = 0, weigh: Callable[[V], int] = _nothing) -> None:
        self._most = most
        self._budget = budget
        self._weigh = weigh
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
            self._keep_within()
            return value

    def _keep_within(self) -> None:
        """Values may have grown since they were put: they are weighed anew."""
        if not self._budget:
            return
        weights = {key: self._weigh(value) for key, value in self._values.items()}
        held = sum(weights.values())
        while held > self._budget and len(self._values) > 1:
            held -= weights[self._values.popitem(last=False)[0]]

    @property
    def bytes(self) -> int:
        """What `weigh` says of all of them together."""
        with self._lock:
            return sum(self._weigh(value) for value in self._values.values())

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
