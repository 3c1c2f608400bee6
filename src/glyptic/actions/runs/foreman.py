"""The foreman: goes through the runs in the background, one after the other, and gives way to the hand."""

from __future__ import annotations

import json
import logging
import time
from collections.abc import Callable, Iterator
from threading import Event, Thread

from glyptic.actions.runs.board import item_of, keep_outcome, stop_run
from glyptic.actions.runs.kinds import DELIVERIES, KINDS, Item, RunKind, Task, do
from glyptic.actions.runs.runners import Here, Processes, Runner, results
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import ClusterError, DocumentError, GlypticError
from glyptic.formats.writing import UNFINISHED
from glyptic.store import runs as kept
from glyptic.store.faults import explained
from glyptic.store.runs import DONE, ENDED, FAILED, GOING, WAITING
from glyptic.store.tables import now

LONGEST_WAIT = 15.0
"""Seconds after which a run goes on by one plate though the hand does not rest."""
BATCH = 20
DIED = "The process that worked on it died each time (was there too little memory?)."
Rest = Callable[[float], None]


NOT_SEEN = (
    "The workers at {address} do not see {folder}, where the pictures lie. Nothing was begun; share it with them."
)


def runner_for(shop: Workshop) -> Runner:
    """Who does what is dear: the workers of the cluster that is set, else a process of this machine that gives way to
    the hand. Raises ClusterError."""
    address = shop.store.settings.read()["cluster"]
    if not address:
        return Processes(1, low=True)
    from glyptic.actions.runs.cluster import Cluster  # noqa: PLC0415  (only who has a cluster needs it)

    cluster = Cluster(address)
    if not cluster.sees(shop.store.folder.resolve()):
        cluster.close()
        raise ClusterError(NOT_SEEN.format(address=address, folder=shop.store.folder))
    return cluster


class Lost:
    """What comes of a task whose worker died each time."""


def _lost(task: Task) -> Lost:
    return Lost()


class Foreman:
    """Works off the runs that are going. rest: waits until the hand rests, at most so many seconds. make_runner: who
    does what is dear; asked for when it is first needed, and let go when nothing is left to do."""

    def __init__(
        self, shop: Workshop, rest: Rest = lambda most: None, make_runner: Callable[[Workshop], Runner] | None = None
    ) -> None:
        self.shop = shop
        self._rest = rest
        self._make_runner = make_runner or runner_for
        self._runner: Runner | None = None
        self._wake = Event()
        self._thread: Thread | None = None
        self.pace: dict[int, tuple[float, int]] = {}
        """When a run began to be worked on (monotonic seconds), and how many were done since."""
        self.troubles: dict[int, str] = {}
        """Why a run could not be gone on with."""

    def start(self) -> None:
        """Go on with what was under way when the server stopped, in the background; what a process that was killed had
        begun to write is cleared away."""
        for half in (self.shop.store.folder / DELIVERIES).rglob(f"{UNFINISHED}*"):
            half.unlink(missing_ok=True)
        self._thread = Thread(target=self._go, name="runs", daemon=True)
        self._thread.start()

    def wake(self) -> None:
        """There is something to do."""
        self._wake.set()

    def left(self, run: int, waiting: int) -> float | None:
        """About how many seconds a run will still take; None where that cannot be told yet."""
        begun, done = self.pace.get(run, (0.0, 0))
        return (time.monotonic() - begun) / done * waiting if done else None

    def _go(self) -> None:
        while True:
            try:
                self.work_off()
            except Exception:
                logging.getLogger(__name__).exception("A run could not be gone on with; it is tried again.")
                time.sleep(1)
            self._wake.wait(5)
            self._wake.clear()

    def work_off(self) -> None:
        """Work on all that is going until nothing is."""
        if not self.shop.store.place.writable:
            return
        while True:
            with self.shop.store.session() as session:
                going = kept.going(session)
            if not going:
                self._let_go()
                return
            self._work_on(going[0])

    def _let_go(self) -> None:
        if self._runner is not None:
            self._runner.close()
            self._runner = None

    def _work_on(self, run_id: int) -> None:
        with self.shop.store.session() as session:
            run = kept.run_of(session, run_id)
            kind, settings = KINDS[run.kind], json.loads(run.settings)
        self.troubles.pop(run_id, None)
        try:
            runner = self._dear_runner() if kind.is_dear(self.shop, settings) else Here()
        except GlypticError as error:
            self.troubles[run_id] = str(error)
            stop_run(self.shop, run_id)
            return
        self.pace[run_id] = (time.monotonic(), 0)
        items: dict[int, Item] = {}
        begun: dict[int, float] = {}
        tasks = self._tasks(run_id, kind, items, begun)
        for task, outcome in results(runner, do, tasks, _lost, lambda: self._may(run_id)):
            item = items.pop(task.item)
            self._finish(kind, item, outcome, time.monotonic() - begun.pop(task.item))
        self._end(run_id)

    def _dear_runner(self) -> Runner:
        if self._runner is None:
            self._runner = self._make_runner(self.shop)
        return self._runner

    def _may(self, run_id: int) -> bool:
        """Wait for a rest; whether the run is still to be gone on with."""
        self._rest(LONGEST_WAIT)
        with self.shop.store.session() as session:
            return kept.run_of(session, run_id).state == GOING

    def _tasks(self, run_id: int, kind: RunKind, items: dict[int, Item], begun: dict[int, float]) -> Iterator[Task]:
        """The tasks of the plates that wait, made when they are needed; one that cannot be made has failed."""
        last = 0
        while True:
            with self.shop.store.session() as session:
                run = kept.run_of(session, run_id)
                rows = kept.items_of(session, run_id, WAITING, after=last, count=BATCH)
                batch = [item_of(run, row) for row in rows]
            if not batch:
                return
            for item in batch:
                last = item.id
                begun[item.id] = time.monotonic()
                try:
                    task = kind.task(self.shop, item)
                except Exception as error:
                    self._failed(item, error)
                    continue
                items[item.id] = item
                yield task

    def _finish(self, kind: RunKind, item: Item, outcome: object, seconds: float) -> None:
        started, done = self.pace.get(item.run, (time.monotonic(), 0))
        self.pace[item.run] = (started, done + 1)
        if isinstance(outcome, Lost):
            keep_outcome(self.shop, item.id, FAILED, DIED, {})
            return
        try:
            made = kind.finish(self.shop, item, outcome)
        except Exception as error:
            self._failed(item, error)
            return
        keep_outcome(self.shop, item.id, DONE, made.says, made.made, seconds)

    def _failed(self, item: Item, error: Exception) -> None:
        known = error if isinstance(error, GlypticError) else explained(error)
        if known is None:
            logging.getLogger(__name__).exception("unforeseen in a run", exc_info=error)
        says = str(known) if known is not None else "Something went wrong inside Glyptic; nothing of it was kept."
        if isinstance(known, DocumentError):
            says = "; ".join(fault.said for fault in known.faults[:3])
        keep_outcome(self.shop, item.id, FAILED, says, {})

    def _end(self, run_id: int) -> None:
        """A run that nothing waits in is over; one that was stopped stays so."""
        with self.shop.store.writing() as session:
            run = kept.run_of(session, run_id)
            if run.state == GOING and not kept.counts_of(session, run_id)[WAITING]:
                run.state, run.ended_at = ENDED, now()
