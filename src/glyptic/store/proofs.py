"""Proofs: states of a plate under a name, kept for ever."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from glyptic.base.errors import NotFound
from glyptic.store.tables import Plate, Proof

GONE = "That proof is not one of this plate's; the list of proofs shows those that are."


def add_proof(
    session: Session, plate: Plate, root: bytes, name: str, note: str, token: str | None, at: datetime | None = None
) -> Proof:
    """Keep a state as a proof; one the page named before is not kept again. at: when it was pulled; now unless said."""
    known = select(Proof).where(Proof.plate_id == plate.id, Proof.token == token)
    found = session.scalar(known) if token is not None else None
    if found is None:
        found = Proof(plate_id=plate.id, root=root, name=name, note=note, token=token, **({"at": at} if at else {}))
        session.add(found)
        session.flush()
    return found


def proofs_of(session: Session, plate: Plate) -> Sequence[Proof]:
    """The proofs of a plate, the newest first."""
    return session.scalars(select(Proof).where(Proof.plate_id == plate.id).order_by(Proof.id.desc())).all()


def count_of(session: Session, plate_id: int) -> int:
    return session.scalar(select(func.count()).select_from(Proof).where(Proof.plate_id == plate_id)) or 0


def proof_of(session: Session, plate: Plate, proof_id: int) -> Proof:
    """A proof of a plate; raises NotFound."""
    found = session.get(Proof, proof_id)
    if found is None or found.plate_id != plate.id:
        raise NotFound(GONE)
    return found
