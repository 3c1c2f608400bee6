"""Plates and their revisions: undo and redo move a pointer, a new edit after an undo starts a branch that is kept."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from sqlalchemy import CursorResult, select, update
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound, StaleEdit
from glyptic.document.values import Stack
from glyptic.store.objects import Objects
from glyptic.store.tables import Asset, Plate, Revision, now

STALE = (
    "This plate was changed in another tab. You now see its newest state and nothing was lost; "
    "your last change was not made, make it again if you still want it."
)


@dataclass(frozen=True)
class Entry:
    """A line of the log. `where`: 'now' for the current state, 'past', 'ahead' (redo), or 'aside' (a branch)."""

    id: int
    sentence: str
    at: datetime
    where: str
    root: bytes


def plate_of(session: Session, plate_id: int, removed: bool = False) -> Plate:
    """The plate; raises NotFound for one that is not there or (unless `removed`) in the bin."""
    plate = session.get(Plate, plate_id)
    if plate is None or (plate.removed_at is not None and not removed):
        raise NotFound(
            "That plate is not on the shelf. It may have been removed; the shelf's bin keeps removed plates."
        )
    return plate


def asset_of(session: Session, asset_hash: str) -> Asset:
    asset = session.get(Asset, asset_hash)
    if asset is None:
        raise NotFound("The picture of that plate is not in the database.")
    return asset


def head_of(session: Session, plate: Plate) -> Revision:
    revision = session.get(Revision, plate.head_id)
    if revision is None:
        raise NotFound("That plate has no current state; restore the data folder from a copy.")
    return revision


def root_of(session: Session, revision_id: int | None) -> bytes | None:
    """The document's root in a revision, or None."""
    revision = None if revision_id is None else session.get(Revision, revision_id)
    return None if revision is None else revision.root


def _move_head(session: Session, plate: Plate, to: int, expected: int | None) -> None:
    """Make another state the current one, if the current one is still the one that is expected; else StaleEdit."""
    still = Plate.head_id.is_not_distinct_from(expected)
    moved = session.execute(
        update(Plate).where(Plate.id == plate.id, still).values(head_id=to, worked_at=now()),
        execution_options={"synchronize_session": "fetch"},
    )
    if cast(CursorResult[Any], moved).rowcount != 1:
        raise StaleEdit(STALE)


def add_revision(
    session: Session, objects: Objects, plate: Plate, stack: Stack, sentence: str, chosen: str,
    after: int | None = None, expected: int | None = None, token: str | None = None,
) -> Revision:  # fmt: skip
    """Store a new state after the state `after` and make it current, if the current one is still `expected`; else
    StaleEdit. token: what the page named the stroke."""
    root = objects.put(session, stack)
    revision = Revision(
        plate_id=plate.id, parent_id=after, root=root, sentence=sentence, chosen=chosen, token=token
    )  # fmt: skip
    session.add(revision)
    session.flush()
    _move_head(session, plate, revision.id, expected)
    if after is not None:
        session.execute(update(Revision).where(Revision.id == after).values(next_id=revision.id))
    plate.chosen = chosen
    return revision


def step_back(session: Session, plate: Plate, current: Revision, expected: int) -> None:
    """Make the state before `current` the current one, unless that is the first."""
    if current.parent_id is not None:
        session.execute(update(Revision).where(Revision.id == current.parent_id).values(next_id=current.id))
        _move_head(session, plate, current.parent_id, expected)


def step_on(session: Session, plate: Plate, current: Revision, expected: int) -> None:
    """Make the state after `current`, along the branch last taken, the current one, unless there is none."""
    if current.next_id is not None:
        _move_head(session, plate, current.next_id, expected)


def revision_of(session: Session, plate: Plate, revision_id: int) -> Revision:
    """A state of a plate's log; raises NotFound."""
    found = session.get(Revision, revision_id)
    if found is None or found.plate_id != plate.id:
        raise NotFound("That state is not in this plate's log.")
    return found


def kept_already(session: Session, plate: Plate, token: str) -> bool:
    """Whether the stroke of a name was kept before."""
    asked = select(Revision.id).where(Revision.plate_id == plate.id, Revision.token == token)
    return session.execute(asked).first() is not None


def revision_named(session: Session, plate: Plate, token: str) -> Revision | None:
    """The state that what the page named so led to, or None."""
    asked = select(Revision).where(Revision.plate_id == plate.id, Revision.token == token)
    return session.scalars(asked).first()


def go_to(session: Session, plate: Plate, revision_id: int, expected: int) -> None:
    """Make any state of the plate's log the current one; redo then leads along its branch."""
    target = revision_of(session, plate, revision_id)
    begin = select(Revision.id, Revision.parent_id).where(Revision.id == target.id).cte("up", recursive=True)
    up = begin.union(select(Revision.id, Revision.parent_id).join(begin, Revision.id == begin.c.parent_id))
    leads_aside = select(up.c.parent_id, up.c.id).join(Revision, Revision.id == up.c.parent_id)
    for parent, child in session.execute(leads_aside.where(Revision.next_id.is_distinct_from(up.c.id))).all():
        session.execute(update(Revision).where(Revision.id == parent).values(next_id=child))
    _move_head(session, plate, target.id, expected)


def lineage(session: Session, plate: Plate) -> Iterator[Revision]:
    """The current state and those before it, the newest first; the newest state there is where the current one is
    gone."""
    at = session.get(Revision, plate.head_id) if plate.head_id is not None else None
    if at is None:
        newest = select(Revision).where(Revision.plate_id == plate.id).order_by(Revision.id.desc()).limit(1)
        at = session.scalar(newest)
    while at is not None:
        yield at
        at = session.get(Revision, at.parent_id) if at.parent_id is not None else None


def _line(session: Session, start: int | None, along: str, low: int, high: int) -> set[int]:
    """The ids in low..high on the way from a state along parents or along next ones. Parents have lower ids and next
    ones, since none is older than its parent, higher: so the walk ends with the page."""
    column = getattr(Revision, along)
    begin = select(Revision.id, column.label("to")).where(Revision.id == start).cte("line", recursive=True)
    bound = Revision.id >= low if along == "parent_id" else Revision.id <= high
    line = begin.union(select(Revision.id, column).join(begin, Revision.id == begin.c.to).where(bound))
    return set(session.scalars(select(line.c.id).where(line.c.id.between(low, high))))


def log_of(
    session: Session, plate: Plate, before: int | None, count: int, now_at: int | None = None, words: Sequence[str] = ()
) -> list[Entry]:
    """The newest `count` lines of the log, or those older than revision `before`. now_at: the state that is shown,
    where that is not the plate's current one. words: that a line must hold, all of them."""
    query = select(Revision.id, Revision.sentence, Revision.at, Revision.root).where(Revision.plate_id == plate.id)
    for word in words:
        query = query.where(Revision.sentence.icontains(word, autoescape=True))
    if before is not None:
        query = query.where(Revision.id < before)
    rows = session.execute(query.order_by(Revision.id.desc()).limit(count)).all()
    if not rows:
        return []
    head, low, high = now_at or plate.head_id, rows[-1].id, rows[0].id
    past, ahead = (_line(session, head, along, low, high) for along in ("parent_id", "next_id"))

    def where(number: int) -> str:
        return "now" if number == head else "past" if number in past else "ahead" if number in ahead else "aside"

    return [Entry(row.id, row.sentence, row.at, where(row.id), row.root) for row in rows]


def family_of(session: Session, plate: Plate) -> Sequence[tuple[int, int | None]]:
    """(state, the state it came of) of every step of a plate, the newest first."""
    asked = select(Revision.id, Revision.parent_id).where(Revision.plate_id == plate.id).order_by(Revision.id.desc())
    return [(number, parent) for number, parent in session.execute(asked).all()]
