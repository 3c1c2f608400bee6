"""Whose turn it is: what a hand waits for comes first; what is only told of the picture waits meanwhile, at places of
its own choosing. Both use the same processors, and the same interpreter."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from threading import Condition

MOST = 0.25
"""Seconds that anybody gives way at a time: nothing waits for ever."""


class Turns:
    """Who is at work on what a hand waits for."""

    def __init__(self) -> None:
        self._first = 0
        self._free = Condition()

    @contextmanager
    def first(self) -> Iterator[None]:
        """What is done inside comes first."""
        with self._free:
            self._first += 1
        try:
            yield
        finally:
            with self._free:
                self._first -= 1
                self._free.notify_all()

    def give_way(self, most: float = MOST) -> bool:
        """Wait until nobody comes first, at most so many seconds; whether it came to that."""
        with self._free:
            return self._free.wait_for(lambda: not self._first, most)
