"""Stopping what takes long: a request goes under a number, and whoever asked may stop it by that."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from threading import Lock

from glyptic.base.errors import Stopped

REMEMBERED = 64


class Stops:
    """The numbers that were stopped, and what is under way in this thread."""

    def __init__(self) -> None:
        self._stopped: OrderedDict[str, None] = OrderedDict()
        self._lock = Lock()
        self._now: ContextVar[str] = ContextVar("now", default="")

    def stop(self, number: str) -> None:
        """Stop what goes under a number, or will."""
        with self._lock:
            self._stopped[number] = None
            while len(self._stopped) > REMEMBERED:
                self._stopped.popitem(last=False)

    @contextmanager
    def under(self, number: str) -> Iterator[None]:
        """What is done inside goes under a number."""
        token = self._now.set(number)
        try:
            yield
        finally:
            self._now.reset(token)

    def check(self) -> None:
        """Raises Stopped where what is under way here was stopped."""
        if self._now.get() in self._stopped:
            raise Stopped("Stopped. Nothing was changed.")
