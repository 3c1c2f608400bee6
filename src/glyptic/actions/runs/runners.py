"""Where work is done: in this process, or in processes of this machine. Work is a function at the top of its module,
from plain data to an outcome; a runner is whatever takes one and promises the other (see also `cluster`)."""

from __future__ import annotations

import os
import signal
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, CancelledError, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from multiprocessing import connection, get_context, parent_process
from threading import Thread
from typing import Any, Protocol, TypeVar

J = TypeVar("J")
O = TypeVar("O")
AHEAD = 2
"""Jobs handed out for each that can be worked on: the next one waits where it is needed."""
TRIES = 2
"""How often a job is begun by itself whose worker dies each time."""
LAST_SECONDS = 5
NICEST = 19
"""The least that a process may ask of the processors."""


class Runner(Protocol):
    """width: how many jobs are worked on at once; lost: what a promise raises whose worker has died."""

    width: int
    lost: tuple[type[BaseException], ...]

    def submit(self, work: Callable[[J], O], job: J) -> Future[O]:
        """Promise an outcome."""

    def revive(self) -> None:
        """Go on after workers were lost."""

    def close(self) -> None:
        """Let the workers go; what was not begun is not."""


class Here:
    """This process, one job after the other."""

    width = 1
    lost: tuple[type[BaseException], ...] = ()

    def submit(self, work: Callable[[J], O], job: J) -> Future[O]:
        """The outcome, there and then."""
        done: Future[O] = Future()
        done.set_result(work(job))
        return done

    def revive(self) -> None:
        """Nobody can be lost."""

    def close(self) -> None:
        """There is nobody to let go."""


class Processes:
    """So many processes of this machine, each with its share of the threads. low: they give way to everybody else."""

    lost: tuple[type[BaseException], ...] = (BrokenProcessPool, CancelledError)

    def __init__(self, width: int, low: bool = False) -> None:
        self.width = width
        self._low = low
        self._pool = self._made()

    def _made(self) -> ProcessPoolExecutor:
        threads = max(1, (os.cpu_count() or 1) // self.width) if not self._low else 1
        return ProcessPoolExecutor(self.width, get_context("spawn"), _begin, (threads, self._low))

    def submit(self, work: Callable[[J], O], job: J) -> Future[O]:
        """Hand a job to whoever is free first."""
        try:
            return self._pool.submit(work, job)
        except BrokenProcessPool as error:
            broken: Future[O] = Future()
            broken.set_exception(error)
            return broken

    def revive(self) -> None:
        """New processes in place of those of which one died."""
        self._pool.shutdown(wait=False, cancel_futures=True)
        self._pool = self._made()

    def close(self) -> None:
        """Let the processes go."""
        self._pool.shutdown(wait=False, cancel_futures=True)


def _begin(threads: int, low: bool) -> None:
    """A process of ours begins: it ends with the one that started it, whatever became of that."""
    ready(threads, low)
    Thread(target=_end_with_parent, name="parent", daemon=True).start()


def _end_with_parent() -> None:
    """Wait until the process that started this one is gone; then break off what is under way, so that nothing half
    written stays, and end."""
    parent = parent_process()
    if parent is None:
        return
    connection.wait([parent.sentinel])
    os.kill(os.getpid(), signal.SIGINT)
    time.sleep(LAST_SECONDS)
    os._exit(1)


def ready(threads: int, low: bool) -> None:
    """A worker begins: as many threads as are its share; low: it gives way to everybody else."""
    from glyptic.engine.heap import keep_what_was_freed  # noqa: PLC0415
    from glyptic.engine.pool import use_threads  # noqa: PLC0415

    keep_what_was_freed()
    use_threads(threads)
    if low:
        with suppress(OSError):
            os.nice(NICEST)
    with suppress(ImportError):
        import cv2  # noqa: PLC0415

        cv2.setNumThreads(threads)


def results(
    runner: Runner,
    work: Callable[[J], O],
    jobs: Iterable[J],
    gave_up: Callable[[J], O],
    go_on: Callable[[], bool] = lambda: True,
) -> Iterator[tuple[J, O]]:
    """(job, outcome) of all as they come, only so many handed out at once however many there are.

    Where workers die their jobs are begun again, one by one, so that it is known which of them kills its worker;
    gave_up: its outcome in the end. go_on: asked before each job is handed out; False ends it when those under way are
    done.
    """
    waiting, suspects = iter(jobs), deque[J]()
    tried: dict[int, int] = {}
    out: dict[Future[O], J] = {}

    def more() -> bool:
        """Hand out another; False where there is none, or none may be begun now."""
        if not go_on():
            return False
        job = suspects.popleft() if suspects else next(waiting, _NONE)
        if job is _NONE:
            return False
        out[runner.submit(work, job)] = job
        return True

    while True:
        room = 1 if suspects else AHEAD * runner.width if runner.width > 1 else 1
        while len(out) < room and more():
            room = 1 if suspects else room
        if not out:
            return
        done, _ = wait(out, return_when=FIRST_COMPLETED)
        alone, died = len(out) == 1, False
        for future in done:
            job = out.pop(future)
            try:
                outcome = future.result()
            except runner.lost:
                died = True
                tried[id(job)] = tried.get(id(job), 0) + alone
                if tried[id(job)] < TRIES:
                    suspects.append(job)
                else:
                    yield job, gave_up(job)
            else:
                yield job, outcome
        if died:
            suspects.extend(out.values())
            out.clear()
            runner.revive()


_NONE: Any = object()
