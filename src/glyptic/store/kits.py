"""Kits of a data folder."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound
from glyptic.store.tables import KeptKit

GONE = "That kit is not among those that are kept. It may have been removed; the bin of the kits keeps removed ones."


def kits(session: Session, removed: bool = False) -> Sequence[KeptKit]:
    """The kits (or those in the bin) by their names."""
    in_bin = KeptKit.removed_at.is_not(None) if removed else KeptKit.removed_at.is_(None)
    return session.scalars(select(KeptKit).where(in_bin).order_by(func.lower(KeptKit.name), KeptKit.id)).all()


def kit_of(session: Session, kit_id: int, removed: bool = False) -> KeptKit:
    """A kit; raises NotFound for one that is not there or (unless `removed`) in the bin."""
    found = session.get(KeptKit, kit_id)
    if found is None or (found.removed_at is not None and not removed):
        raise NotFound(GONE)
    return found


def named(session: Session, name: str) -> KeptKit | None:
    """The kit that is called so, upper and lower case alike."""
    wanted = name.casefold()
    return next((one for one in kits(session) if one.name.casefold() == wanted), None)
