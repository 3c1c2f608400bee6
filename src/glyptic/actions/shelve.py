"""The shelf: list, rename, duplicate, remove and put back plates."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from glyptic.actions.open_picture import LONGEST_NAME, add_plate
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.params import Text
from glyptic.store.objects import frames_of
from glyptic.store.plates import plate_of, shelf
from glyptic.store.tables import now


@dataclass(frozen=True)
class Card:
    """What the shelf shows of a plate. `root` changes whenever the picture does."""

    id: int
    name: str
    width: int
    height: int
    depth: int
    worked_at: datetime
    root: str
    notes: str
    sheet: tuple[int, int] | None = None
    """What comes out, where a frame is at work."""


def list_plates(workshop: Workshop, removed: bool = False) -> list[Card]:
    """Plates on the shelf (or in the bin), last worked on first."""
    with workshop.store.session() as session:
        rows = shelf(session, removed)
        frames = frames_of(session, [r.root for _, _, r in rows])
        sheets = {root: frame.sheet for root, frame in frames.items() if frame.enabled}
        return [
            Card(p.id, p.name, a.width, a.height, a.depth, p.worked_at, r.root.hex(), a.notes, sheets.get(r.root))
            for p, a, r in rows
        ]


def rename(workshop: Workshop, plate_id: int, name: str) -> None:
    faults: list[Fault] = []
    Text(longest=LONGEST_NAME).parse(name.strip(), "Name", faults)
    if faults:
        raise DocumentError(faults)
    with workshop.store.writing() as session:
        plate_of(session, plate_id).name = name.strip()


def duplicate(workshop: Workshop, plate_id: int) -> int:
    """A second plate with the same picture and stack, and a log of its own."""
    current = workshop.current(plate_id)
    name = f"{current.name[: LONGEST_NAME - 5]} copy"
    return add_plate(workshop, name, current.asset, current.stack, f"Copied from ‘{current.name}’")


def remove(workshop: Workshop, plate_id: int) -> None:
    """Put a plate into the bin; nothing of it is lost."""
    with workshop.store.writing() as session:
        plate_of(session, plate_id).removed_at = now()


def put_back(workshop: Workshop, plate_id: int) -> None:
    with workshop.store.writing() as session:
        plate_of(session, plate_id, removed=True).removed_at = None
