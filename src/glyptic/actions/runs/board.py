"""Runs: work on many plates at once, begun, watched, stopped, gone on with, undone."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from glyptic.actions.runs.kinds import KINDS, Item, Plain
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.store import runs as kept
from glyptic.store.plates import root_of
from glyptic.store.runs import DONE, ENDED, FAILED, GOING, STOPPED, UNDONE, WAITING
from glyptic.store.tables import Plate, Run, RunItem, now

MOST_LISTED = 300
"""Lines of one state that a run's page lists."""


@dataclass(frozen=True)
class Line:
    """A plate of a run, as its page lists it. root: of the plate's present state, or '' where it is gone."""

    id: int
    plate: int
    name: str
    state: str
    says: str
    made: Plain
    root: str = ""


@dataclass(frozen=True)
class RunCard:
    """A run: how many of its plates are in which state."""

    id: int
    kind: str
    title: str
    state: str
    at: datetime
    ended_at: datetime | None
    waiting: int
    done: int
    failed: int
    undone: int

    @property
    def count(self) -> int:
        """How many there are."""
        return self.waiting + self.done + self.failed + self.undone


def begin_run(shop: Workshop, kind: str, plates: Sequence[int], settings: Plain) -> int:
    """Begin a run on plates; returns its number. Raises DocumentError or NotFound where it cannot be begun."""
    if kind not in KINDS:
        raise DocumentError([Fault("kind", f"must be one of {', '.join(KINDS)}")])
    title, settings, items = KINDS[kind].begin(shop, list(dict.fromkeys(plates)), settings)
    if not items:
        raise DocumentError([Fault("plates", "must be one or more that are on the shelf")])
    with shop.store.writing() as session:
        run = Run(kind=kind, title=title, settings=json.dumps(settings))
        session.add(run)
        session.flush()
        session.add_all(RunItem(run_id=run.id, plate_id=plate, plain=json.dumps(plain)) for plate, plain in items)
        return run.id


def _card(session: Session, run: Run) -> RunCard:
    counts = kept.counts_of(session, run.id)
    waiting, done, failed, undone = (counts[state] for state in (WAITING, DONE, FAILED, UNDONE))
    return RunCard(run.id, run.kind, run.title, run.state, run.at, run.ended_at, waiting, done, failed, undone)


def list_runs(shop: Workshop) -> list[RunCard]:
    """The newest runs, the newest first."""
    with shop.store.session() as session:
        return [_card(session, run) for run in kept.runs(session)]


def look_at_run(shop: Workshop, run_id: int) -> RunCard:
    """A run; raises NotFound."""
    with shop.store.session() as session:
        return _card(session, kept.run_of(session, run_id))


def lines_of(shop: Workshop, run_id: int, *states: str) -> list[Line]:
    """The plates of a run in some states, in order; so many at the most."""
    with shop.store.session() as session:
        items = kept.items_of(session, run_id, *states, count=MOST_LISTED)
        plates = {item.plate_id: session.get(Plate, item.plate_id) for item in items}
        return [
            Line(
                one.id, one.plate_id, name_of(plates[one.plate_id]), one.state, one.says, json.loads(one.made),
                _root_of(session, plates[one.plate_id]),
            )
            for one in items
        ]  # fmt: skip


def files_of(shop: Workshop, run_id: int) -> dict[int, str]:
    """The files a run has written, all of them, by the items they came of."""
    with shop.store.session() as session:
        kept.run_of(session, run_id)
        made = {item.id: json.loads(item.made) for item in kept.items_of(session, run_id, DONE)}
    return {number: plain["file"] for number, plain in made.items() if "file" in plain}


def _root_of(session: Session, plate: Plate | None) -> str:
    root = root_of(session, plate.head_id) if plate is not None else None
    return root.hex() if root is not None else ""


def name_of(plate: Plate | None) -> str:
    """What a plate is called, or what is said of one that is gone."""
    return "a plate that is gone" if plate is None else plate.name


def _set_state(shop: Workshop, run_id: int, state: str) -> None:
    with shop.store.writing() as session:
        run = kept.run_of(session, run_id)
        run.state, run.ended_at = state, now() if state == ENDED else None


def stop_run(shop: Workshop, run_id: int) -> None:
    """Begin nothing more of a run; what is under way is ended."""
    if look_at_run(shop, run_id).state == GOING:
        _set_state(shop, run_id, STOPPED)


def go_on_with_run(shop: Workshop, run_id: int) -> None:
    """Go on with a run that was stopped."""
    if look_at_run(shop, run_id).waiting:
        _set_state(shop, run_id, GOING)


def try_again(shop: Workshop, run_id: int) -> None:
    """Have those that failed tried again."""
    with shop.store.writing() as session:
        kept.run_of(session, run_id)
        kept.set_items(session, run_id, FAILED, WAITING)
    go_on_with_run(shop, run_id)


def item_of(run: Run, row: RunItem) -> Item:
    """An item as the kinds of runs take it."""
    settings = json.loads(run.settings)
    return Item(run.id, row.id, row.plate_id, settings, json.loads(row.plain), json.loads(row.made))


def keep_outcome(shop: Workshop, item_id: int, state: str, says: str, made: Plain, seconds: float = 0.0) -> None:
    """What became of an item."""
    with shop.store.writing() as session:
        row = session.get(RunItem, item_id)
        if row is not None:
            row.state, row.says, row.made, row.seconds = state, says, json.dumps(made), seconds


def undo_items(shop: Workshop, run_id: int, item_id: int | None = None) -> list[str]:
    """Take back what a run made, or one item of it; returns a sentence for each that could not be."""
    if item_id is None:
        stop_run(shop, run_id)
    with shop.store.session() as session:
        run = kept.run_of(session, run_id)
        rows = [row for row in kept.items_of(session, run_id, DONE) if item_id in (None, row.id)]
        items = [(item_of(run, row), name_of(session.get(Plate, row.plate_id))) for row in rows]
    troubles = []
    for item, name in items:
        try:
            KINDS[run.kind].undo(shop, item)
            keep_outcome(shop, item.id, UNDONE, "taken back", {})
        except GlypticError as error:
            troubles.append(f"{name}: {error}")
    return troubles
