"""The shelf: plates found by their words, marks and shoot, in an order, a page at a time; and the shoots themselves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, func, select, update
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound
from glyptic.store.tables import Asset, Plate, Revision, Shoot

NO_SHOOT = 0
"""What stands for the plates that are in no shoot."""
GONE = "That shoot is not on the shelf any more; its plates are."
BATCH = 500
ORDERS: dict[str, tuple[str, tuple[Any, ...]]] = {
    "worked": ("last worked on", (Plate.worked_at.desc(), Plate.id.desc())),
    "name": ("name", (func.lower(Plate.name), Plate.id)),
    "taken": ("taken at", (Asset.taken_at.is_(None), Asset.taken_at, func.lower(Plate.name), Plate.id)),
    "size": ("size", ((Asset.width * Asset.height).desc(), func.lower(Plate.name), Plate.id)),
}
"""The orders of the shelf: the words for each, and what it goes by."""


@dataclass(frozen=True)
class Wanted:
    """Which plates. words: each stands in the name or the note; shoot: None for any, NO_SHOOT for those in none; marks:
    bits, all of which a plate carries; order: of ORDERS."""

    words: tuple[str, ...] = ()
    shoot: int | None = None
    marks: int = 0
    order: str = "worked"
    removed: bool = False

    @property
    def conditions(self) -> list[ColumnElement[bool]]:
        """What is true of these plates alone."""
        removed = Plate.removed_at
        found: list[ColumnElement[bool]] = [removed.is_not(None) if self.removed else removed.is_(None)]
        for word in self.words:
            name, note = (column.icontains(word, autoescape=True) for column in (Plate.name, Plate.note))
            found.append(name | note)
        if self.shoot is not None:
            found.append(Plate.shoot_id == self.shoot if self.shoot else Plate.shoot_id.is_(None))
        if self.marks:
            found.append(Plate.marks.bitwise_and(self.marks) == self.marks)
        return found


Row = tuple[Plate, Asset, Revision]


def plates_wanted(session: Session, wanted: Wanted, start: int = 0, count: int | None = None) -> Sequence[Row]:
    """Plates with their pictures and current states, in order, from the one at `start` on."""
    query = (
        select(Plate, Asset, Revision)
        .join(Asset, Asset.hash == Plate.asset_hash)
        .join(Revision, Revision.id == Plate.head_id)
        .where(*wanted.conditions)
        .order_by(*ORDERS[wanted.order][1])
    )
    if count is not None:
        query = query.limit(count).offset(start)
    return [(plate, asset, revision) for plate, asset, revision in session.execute(query).all()]


def ids_wanted(session: Session, wanted: Wanted) -> list[int]:
    """The numbers of all of them, in order."""
    query = select(Plate.id).join(Asset, Asset.hash == Plate.asset_hash).where(*wanted.conditions)
    return list(session.scalars(query.order_by(*ORDERS[wanted.order][1])))


def shoots_of(session: Session) -> list[tuple[Shoot, int]]:
    """The shoots by their names, each with how many plates it holds."""
    held = select(Plate.shoot_id, func.count()).where(*Wanted().conditions).group_by(Plate.shoot_id)
    counts: dict[int | None, int] = {row[0]: row[1] for row in session.execute(held).all()}
    every = session.scalars(select(Shoot).order_by(func.lower(Shoot.name), Shoot.id)).all()
    return [(shoot, counts.get(shoot.id, 0)) for shoot in every]


def shoot_of(session: Session, shoot_id: int) -> Shoot:
    """A shoot; raises NotFound."""
    found = session.get(Shoot, shoot_id)
    if found is None:
        raise NotFound(GONE)
    return found


def change_plates(session: Session, plates: Sequence[int], **values: Any) -> int:
    """Set columns of several plates at once; returns of how many."""
    changed = 0
    for start in range(0, len(plates), BATCH):
        some = Plate.id.in_(plates[start : start + BATCH])
        changed += session.execute(update(Plate).where(some).values(**values)).rowcount  # type: ignore[attr-defined]
    return changed
