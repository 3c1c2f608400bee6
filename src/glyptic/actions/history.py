"""Undo, redo, the log, and going to any state in it."""

from __future__ import annotations

from collections.abc import Callable

from sqlalchemy.orm import Session

from glyptic.actions.edit import check_revision
from glyptic.actions.workshop import Current, Workshop
from glyptic.store import plates
from glyptic.store.tables import Plate

LOG_PAGE = 100


def undo(workshop: Workshop, plate_id: int, revision: int) -> Current:
    """Back one step; at the beginning nothing happens."""
    return _moved(workshop, plate_id, revision, plates.undo)


def redo(workshop: Workshop, plate_id: int, revision: int) -> Current:
    """Forward one step along the branch last taken; at its end nothing happens."""
    return _moved(workshop, plate_id, revision, plates.redo)


def _moved(workshop: Workshop, plate_id: int, revision: int, move: Callable[[Session, Plate], bool]) -> Current:
    with workshop.lock(plate_id):
        check_revision(workshop.current(plate_id), revision)
        with workshop.store.session() as session:
            move(session, plates.plate_of(session, plate_id))
        return workshop.current(plate_id)


def go_to(workshop: Workshop, plate_id: int, revision_id: int) -> Current:
    """Make any state of the log the current one."""
    with workshop.lock(plate_id), workshop.store.session() as session:
        plates.go_to(session, plates.plate_of(session, plate_id), revision_id)
    return workshop.current(plate_id)


def read_log(workshop: Workshop, plate_id: int, before: int | None = None) -> list[plates.Entry]:
    """A page of the log, newest first."""
    with workshop.store.session() as session:
        return plates.log_of(session, plates.plate_of(session, plate_id), before, LOG_PAGE)
