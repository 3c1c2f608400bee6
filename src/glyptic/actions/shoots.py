"""Shoots: plates that belong together, gathered, named, taken apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.params import Text
from glyptic.store.plates import plate_of
from glyptic.store.shelf import NO_SHOOT, Wanted, change_plates, ids_wanted, shoot_of, shoots_of
from glyptic.store.tables import Shoot

NAME = Text(label="Name", longest=80)


@dataclass(frozen=True)
class ShootLine:
    """A shoot as the shelf lists it."""

    id: int
    name: str
    count: int


def list_shoots(workshop: Workshop) -> list[ShootLine]:
    """The shoots by their names."""
    with workshop.store.session() as session:
        return [ShootLine(shoot.id, shoot.name, count) for shoot, count in shoots_of(session)]


@dataclass(frozen=True)
class Among:
    """Where a plate stands in its shoot, by name: its place, from 1, of how many; the plates before and after it."""

    shoot: int
    name: str
    place: int
    count: int
    before: int | None
    after: int | None


def among(workshop: Workshop, plate_id: int) -> Among | None:
    """Where a plate stands in its shoot; None for one that is in none."""
    with workshop.store.session() as session:
        shoot = plate_of(session, plate_id).shoot_id
        if shoot is None:
            return None
        row = ids_wanted(session, Wanted(shoot=shoot, order="name"))
        at = row.index(plate_id)
        sides = (row[i] if 0 <= i < len(row) else None for i in (at - 1, at + 1))
        return Among(shoot, shoot_of(session, shoot).name, at + 1, len(row), *sides)


def _named(name: str) -> str:
    faults: list[Fault] = []
    NAME.parse(name.strip(), NAME.label, faults)
    if faults:
        raise DocumentError(faults)
    return name.strip()


def make_shoot(workshop: Workshop, name: str, plates: Sequence[int] = ()) -> int:
    """A new shoot, of some plates; returns its number."""
    with workshop.store.writing() as session:
        shoot = Shoot(name=_named(name))
        session.add(shoot)
        session.flush()
        change_plates(session, plates, shoot_id=shoot.id)
        return shoot.id


def rename_shoot(workshop: Workshop, shoot_id: int, name: str) -> None:
    with workshop.store.writing() as session:
        shoot_of(session, shoot_id).name = _named(name)


def gather(workshop: Workshop, plates: Sequence[int], shoot_id: int) -> None:
    """Put plates into a shoot, or with NO_SHOOT into none."""
    with workshop.store.writing() as session:
        if shoot_id != NO_SHOOT:
            shoot_of(session, shoot_id)
        change_plates(session, plates, shoot_id=shoot_id or None)


def dissolve(workshop: Workshop, shoot_id: int) -> tuple[str, list[int]]:
    """Let a shoot go; its plates stay on the shelf. Returns its name and its plates, by which it can be made again."""
    with workshop.store.writing() as session:
        shoot = shoot_of(session, shoot_id)
        plates = [n for gone in (False, True) for n in ids_wanted(session, Wanted(shoot=shoot_id, removed=gone))]
        change_plates(session, plates, shoot_id=None)
        session.delete(shoot)
        return shoot.name, plates
