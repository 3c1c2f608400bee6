"""Undo, redo, the log, and going to any state in it."""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy.orm import Session

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
        with workshop.store.session() as session:
            root = plates.revision_of(session, plates.plate_of(session, plate_id), revision_id).root
        workshop.check(root)
        with workshop.store.writing() as session:
            plates.go_to(session, plates.plate_of(session, plate_id), revision_id, current.head)
        return workshop.current(plate_id)


def read_log(workshop: Workshop, plate_id: int, before: int | None = None) -> list[plates.Entry]:
    """A page of the log, newest first."""
    shown = workshop.current(plate_id).revision
    with workshop.store.session() as session:
        return plates.log_of(session, plates.plate_of(session, plate_id), before, LOG_PAGE, shown)
