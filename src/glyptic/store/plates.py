"""Plates and their revisions: undo and redo move a pointer, a new edit after an undo starts a branch that is kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound
from glyptic.document.values import Stack
from glyptic.store.objects import Objects
from glyptic.store.tables import Asset, Plate, Revision, now


@dataclass(frozen=True)
class Entry:
    """A line of the log. `where`: 'now' for the current state, 'past', 'ahead' (redo), or 'aside' (a branch)."""

    id: int
    sentence: str
    at: datetime
    where: str


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


def add_revision(
    session: Session, objects: Objects, plate: Plate, stack: Stack, sentence: str, chosen: str
) -> Revision:
    """Store a new state after the current one and make it current."""
    root = objects.put(session, stack)
    revision = Revision(plate_id=plate.id, parent_id=plate.head_id, root=root, sentence=sentence, chosen=chosen)
    session.add(revision)
    session.flush()
    if plate.head_id is not None:
        head_of(session, plate).next_id = revision.id
    plate.head_id, plate.chosen, plate.worked_at = revision.id, chosen, now()
    return revision


def undo(session: Session, plate: Plate) -> bool:
    """Go back one state; False at the beginning."""
    head = head_of(session, plate)
    parent = session.get(Revision, head.parent_id) if head.parent_id is not None else None
    if parent is None:
        return False
    parent.next_id = head.id
    plate.head_id, plate.worked_at = parent.id, now()
    return True


def redo(session: Session, plate: Plate) -> bool:
    """Go forward one state along the branch last taken; False at its end."""
    head = head_of(session, plate)
    if head.next_id is None:
        return False
    plate.head_id, plate.worked_at = head.next_id, now()
    return True


def go_to(session: Session, plate: Plate, revision_id: int) -> None:
    """Make any state of the plate's log the current one; redo then leads along its branch."""
    target = session.get(Revision, revision_id)
    if target is None or target.plate_id != plate.id:
        raise NotFound("That state is not in this plate's log.")
    child = target
    while child.parent_id is not None:
        parent = session.get(Revision, child.parent_id)
        if parent is None:
            break
        parent.next_id = child.id
        child = parent
    plate.head_id, plate.worked_at = target.id, now()


def log_of(session: Session, plate: Plate, before: int | None, count: int) -> list[Entry]:
    """The newest `count` lines of the log, or those older than revision `before`."""
    rows = session.execute(
        select(Revision.id, Revision.parent_id, Revision.next_id, Revision.sentence, Revision.at)
        .where(Revision.plate_id == plate.id)
    ).all()  # fmt: skip
    by_id = {row.id: row for row in rows}
    places: dict[int, str] = {}
    for where, field in (("past", "parent_id"), ("ahead", "next_id")):
        at = by_id.get(plate.head_id or 0)
        while at is not None and places.get(at.id) != where:
            places[at.id] = where
            at = by_id.get(getattr(at, field) or 0)
    if plate.head_id is not None:
        places[plate.head_id] = "now"
    newest = sorted((row for row in rows if before is None or row.id < before), key=lambda row: -row.id)
    return [Entry(row.id, row.sentence, row.at, places.get(row.id, "aside")) for row in newest[:count]]


def shelf(session: Session, removed: bool = False) -> Sequence[tuple[Plate, Asset, Revision]]:
    """Plates with their pictures and current states, last worked on first."""
    in_bin = Plate.removed_at.is_not(None) if removed else Plate.removed_at.is_(None)
    query = (
        select(Plate, Asset, Revision)
        .join(Asset, Asset.hash == Plate.asset_hash)
        .join(Revision, Revision.id == Plate.head_id)
        .where(in_bin)
        .order_by(Plate.worked_at.desc(), Plate.id.desc())
    )
    return [(plate, asset, revision) for plate, asset, revision in session.execute(query).all()]
