"""The threads that kernels run on: made once for the whole process, as many as there are processors. Threads made anew
for every frame cost time, and each leaves a heap of its own behind."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor, wait
from contextlib import contextmanager
from typing import Any, TypeVar

from glyptic.base.threads import allow, allowed

T = TypeVar("T")
Work = Callable[[], object]
_THREADS: dict[str, ThreadPoolExecutor] = {}


def _pool() -> ThreadPoolExecutor:
    if "render" not in _THREADS:
        _THREADS["render"] = ThreadPoolExecutor(allowed(), "render")
    return _THREADS["render"]


def use_threads(count: int) -> None:
    """How many threads this process uses from now on, where it shares the machine with others."""
    allow(count)
    _THREADS.clear()


os.register_at_fork(after_in_child=_THREADS.clear)  # threads do not come along into a forked process


class Crew:
    """Work handed to the threads by somebody who may leave before it is done."""

    def __init__(self) -> None:
        self._given: list[Future[Any]] = []

    def submit(self, work: Callable[..., T], *given: Any) -> Future[T]:
        self._given = [one for one in self._given if not one.done()]
        self._given.append(_pool().submit(work, *given))
        return self._given[-1]

    def all(self, work: Iterable[Work]) -> None:
        """Have several things done, in any order; returns when all are."""
        for done in [self.submit(one) for one in work]:
            done.result()

    def leave(self) -> None:
        """Give up what has not been begun."""
        for one in self._given:
            one.cancel()


class Ahead:
    """Work that is begun before it is asked for. Newer work takes the place of what has not been begun."""

    def __init__(self) -> None:
        self._crew = Crew()
        self._first: list[Future[Any]] = []

    def instead(
        self, work: Iterable[Work], after: Iterable[Work] = (), later: Callable[[], Iterable[Work]] = tuple
    ) -> None:
        """Begin with this, go on with what is wanted after it, and then with what `later` says; whoever needs it gets
        what is wrong with it when it asks."""
        self.give_up()
        self._first = [self._crew.submit(one) for one in work]
        for one in after:
            self._crew.submit(one)
        self._crew.submit(self._go_on, self._crew, later)

    def _go_on(self, crew: Crew, later: Callable[[], Iterable[Work]]) -> None:
        for one in later():
            if crew is not self._crew:
                return
            crew.submit(one)

    def give_up(self) -> None:
        """Begin with nothing more: a hand is at work."""
        before, self._crew, self._first = self._crew, Crew(), []
        before.leave()

    def wait(self, most: float) -> None:
        """Until what was begun with is there, at most so many seconds."""
        wait(self._first, most)


@contextmanager
def crew() -> Iterator[Crew]:
    """The threads for a while; what was not begun at its end is given up."""
    made = Crew()
    try:
        yield made
    finally:
        made.leave()
