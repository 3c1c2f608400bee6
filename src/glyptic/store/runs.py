"""Runs of a data folder, and what became of each of their plates."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound
from glyptic.store.tables import Run, RunItem

GONE = "That run is not kept any more."
GOING, STOPPED, ENDED = "going", "stopped", "ended"
WAITING, DONE, FAILED, UNDONE = "waiting", "done", "failed", "undone"


def run_of(session: Session, run_id: int) -> Run:
    """A run; raises NotFound."""
    found = session.get(Run, run_id)
    if found is None:
        raise NotFound(GONE)
    return found


def runs(session: Session, count: int = 100) -> Sequence[Run]:
    """The newest runs, the newest first."""
    return session.scalars(select(Run).order_by(Run.id.desc()).limit(count)).all()


def going(session: Session) -> list[int]:
    """The runs that are under way, the oldest first."""
    return list(session.scalars(select(Run.id).where(Run.state == GOING).order_by(Run.id)))


def counts_of(session: Session, run_id: int) -> Counter[str]:
    """How many of a run are in each state."""
    asked = select(RunItem.state, func.count()).where(RunItem.run_id == run_id).group_by(RunItem.state)
    return Counter({row[0]: row[1] for row in session.execute(asked).all()})


def items_of(session: Session, run_id: int, *states: str, after: int = 0, count: int | None = None) -> list[RunItem]:
    """The items of a run (in some states), in order, from the one after a number on."""
    asked = select(RunItem).where(RunItem.run_id == run_id, RunItem.id > after).order_by(RunItem.id)
    if states:
        asked = asked.where(RunItem.state.in_(states))
    return list(session.scalars(asked if count is None else asked.limit(count)))


def set_items(session: Session, run_id: int, state: str, to: str) -> None:
    """Move all items of a run from one state to another."""
    session.execute(update(RunItem).where(RunItem.run_id == run_id, RunItem.state == state).values(state=to, says=""))
