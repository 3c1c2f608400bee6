"""The shelf: plates listed a page at a time, renamed, described, marked, duplicated, removed and put back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from glyptic.actions.open_picture import LONGEST_NAME, add_plate
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.params import Param, Schema, Text, Values
from glyptic.store.objects import frames_of
from glyptic.store.plates import plate_of
from glyptic.store.settings import KeptSettings
from glyptic.store.shelf import Wanted, change_plates, ids_wanted, plates_wanted
from glyptic.store.tables import Plate, now

NAME = Text(label="Name", longest=LONGEST_NAME)
NOTE = Text(label="Note", longest=1000, default="", blank=True)
MARKS_FILE = "marks.json"
MARKS = Schema(
    {
        f"mark{i}": Text(label=f"Mark {i}", longest=24, default=word, blank=True, help="'' for no such mark.")
        for i, word in enumerate(("to do", "with the client", "done", ""), 1)
    }
)


@dataclass(frozen=True)
class Card:
    """What the shelf shows of a plate. `root` changes whenever the picture does. marks: bits, one for each mark."""

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
    note: str = ""
    marks: int = 0
    shoot: int | None = None
    taken_at: datetime | None = None


def list_plates(workshop: Workshop, removed: bool = False) -> list[Card]:
    """Plates on the shelf (or in the bin), last worked on first."""
    return some_plates(workshop, Wanted(removed=removed))


def some_plates(workshop: Workshop, wanted: Wanted, start: int = 0, count: int | None = None) -> list[Card]:
    """The plates that are wanted, in order, at most so many from the one at `start` on."""
    with workshop.store.session() as session:
        rows = plates_wanted(session, wanted, start, count)
        frames = frames_of(session, [r.root for _, _, r in rows])
        sheets = {root: frame.sheet for root, frame in frames.items() if frame.enabled}
        return [
            Card(
                p.id, p.name, a.width, a.height, a.depth, p.worked_at, r.root.hex(), a.notes, sheets.get(r.root),
                p.note, p.marks, p.shoot_id, a.taken_at,
            )
            for p, a, r in rows
        ]  # fmt: skip


def numbers_of(workshop: Workshop, wanted: Wanted) -> list[int]:
    """The numbers of all plates that are wanted, in order."""
    with workshop.store.session() as session:
        return ids_wanted(session, wanted)


def _worded(param: Param, text: str) -> str:
    """A text in one line; raises DocumentError."""
    faults: list[Fault] = []
    text = " ".join(text.split())
    param.parse(text, param.label, faults)
    if faults:
        raise DocumentError(faults)
    return text


def rename(workshop: Workshop, plate_id: int, name: str) -> None:
    name = _worded(NAME, name)
    with workshop.store.writing() as session:
        plate_of(session, plate_id).name = name


def describe(workshop: Workshop, plate_id: int, note: str) -> None:
    """Another note for a plate."""
    note = _worded(NOTE, note)
    with workshop.store.writing() as session:
        plate_of(session, plate_id).note = note


def duplicate(workshop: Workshop, plate_id: int) -> int:
    """A second plate with the same picture and stack, in the same shoot, and a log of its own."""
    current = workshop.current(plate_id)
    name = f"{current.name[: LONGEST_NAME - 5]} copy"
    made = add_plate(workshop, name, current.asset, current.stack, f"Copied from ‘{current.name}’")
    with workshop.store.writing() as session:
        plate_of(session, made).shoot_id = plate_of(session, plate_id).shoot_id
    return made


def remove(workshop: Workshop, *plates: int) -> None:
    """Put plates into the bin; nothing of them is lost."""
    _bin(workshop, plates, False)


def put_back(workshop: Workshop, *plates: int) -> None:
    """Take plates out of the bin again."""
    _bin(workshop, plates, True)


def _bin(workshop: Workshop, plates: Sequence[int], back: bool) -> None:
    with workshop.store.writing() as session:
        if len(plates) == 1:
            plate_of(session, plates[0], removed=back)
        change_plates(session, plates, removed_at=None if back else now())


def marks_of(workshop: Workshop) -> KeptSettings:
    """The names of the marks of this data folder."""
    return KeptSettings(workshop.store.folder / MARKS_FILE, MARKS)


def mark_names(workshop: Workshop) -> list[tuple[int, str]]:
    """(bit, name) of each mark that has a name."""
    names: Values = marks_of(workshop).read()
    return [(1 << i, name) for i, name in enumerate(names.values()) if name]


def mark(workshop: Workshop, plates: Sequence[int], bit: int, on: bool) -> None:
    """Give plates a mark, or take it from them."""
    if bit not in [1 << i for i in range(len(MARKS.params))]:
        raise DocumentError([Fault("mark", f"must be the bit of one of {len(MARKS.params)} marks")])
    changed = Plate.marks.bitwise_or(bit) if on else Plate.marks.bitwise_and(~bit)
    with workshop.store.writing() as session:
        change_plates(session, plates, marks=changed)
