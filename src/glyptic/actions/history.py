"""Undo, redo, the log, and going to any state in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from glyptic.actions.branches import Twig, drawn
from glyptic.actions.edit import check_revision
from glyptic.actions.workshop import Current, Workshop
from glyptic.store import plates
from glyptic.store.tables import Plate, Revision

LOG_PAGE = 100


def undo(workshop: Workshop, plate_id: int, revision: int) -> Current:
    """Back one step; at the beginning nothing happens."""
    return _moved(workshop, plate_id, revision, plates.step_back)


def redo(workshop: Workshop, plate_id: int, revision: int) -> Current:
    """Forward one step along the branch last taken; at its end nothing happens."""
    return _moved(workshop, plate_id, revision, plates.step_on)


Move = Callable[[Session, Plate, Revision, int], None]


def _moved(workshop: Workshop, plate_id: int, revision: int, move: Move) -> Current:
    with workshop.lock(plate_id):
        workshop.edits[plate_id] += 1
        current = workshop.current(plate_id)
        check_revision(current, revision)
        with workshop.store.writing() as session:
            plate = plates.plate_of(session, plate_id)
            move(session, plate, plates.revision_of(session, plate, current.revision), current.head)
        return workshop.current(plate_id)


def go_to(workshop: Workshop, plate_id: int, revision_id: int) -> Current:
    """Make any state of the log the current one; one that cannot be drawn is refused, with the reason."""
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        workshop.edits[plate_id] += 1
        root_of_step(workshop, plate_id, revision_id)
        with workshop.store.writing() as session:
            plates.go_to(session, plates.plate_of(session, plate_id), revision_id, current.head)
        return workshop.current(plate_id)


def read_log(
    workshop: Workshop, plate_id: int, before: int | None = None, words: Sequence[str] = ()
) -> tuple[list[plates.Entry], dict[int, Twig]]:
    """A page of the log, newest first, and the tree its lines stand in; of the lines with some words only, which stand
    in none."""
    shown = workshop.current(plate_id).revision
    with workshop.store.session() as session:
        plate = plates.plate_of(session, plate_id)
        entries = plates.log_of(session, plate, before, LOG_PAGE, shown, words)
        return entries, {} if words else drawn(plates.family_of(session, plate))


def root_of_step(workshop: Workshop, plate_id: int, revision_id: int) -> bytes:
    """The root of a step of the log; raises NotFound, or what is wrong with a state that cannot be drawn."""
    with workshop.store.session() as session:
        root = plates.revision_of(session, plates.plate_of(session, plate_id), revision_id).root
    workshop.check(root)
    return root
