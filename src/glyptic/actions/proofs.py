"""Proofs: pulled, listed with how they differ from now, returned to."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from glyptic.actions.comparing import Apart, apart
from glyptic.actions.edit import check_revision, kept_already
from glyptic.actions.keeping import keep_after
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.document.proof_list import WORDS
from glyptic.document.values import Stack
from glyptic.params import Schema
from glyptic.store import plates, proofs

GONE = proofs.GONE
FIELDS = Schema(WORDS)


@dataclass(frozen=True)
class Pulled:
    """A proof. apart: how it differs from now; trouble: why it cannot be drawn, or ''."""

    id: int
    root: bytes
    name: str
    note: str
    at: datetime
    apart: Apart | None = None
    trouble: str = ""


def _worded(name: object, note: object) -> tuple[str, str]:
    faults: list[Fault] = []
    values = FIELDS.parse({"name": name, "note": note}, "", faults)
    if values is None:
        raise DocumentError(faults)
    return values["name"].strip(), values["note"].strip()


def next_name(workshop: Workshop, plate_id: int) -> str:
    """What the next proof is called unless it is named."""
    return f"Proof {count_of(workshop, plate_id) + 1}"


def count_of(workshop: Workshop, plate_id: int) -> int:
    """How many proofs a plate has."""
    with workshop.store.session() as session:
        return proofs.count_of(session, plate_id)


def names_of(workshop: Workshop, plate_id: int) -> dict[str, str]:
    """The names of a plate's proofs by their numbers, the newest first."""
    return {str(one.id): one.name for one in plain_list(workshop, plate_id)}


def pull(workshop: Workshop, plate_id: int, revision: int, name: str, note: str, token: str | None = None) -> Pulled:
    """Keep the current state for ever under a name. Raises StaleEdit where it is another one by now."""
    name, note = _worded(name or next_name(workshop, plate_id), note)
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        check_revision(current, revision)
        with workshop.store.writing() as session:
            plate = plates.plate_of(session, plate_id)
            made = proofs.add_proof(session, plate, current.root, name, note, token)
            return Pulled(made.id, made.root, made.name, made.note, made.at)


def take_in(workshop: Workshop, plate_id: int, stack: Stack, name: str, note: str, at: str) -> None:
    """Keep a state that came with a plate as one of its proofs. at: when it was pulled, in ISO 8601; now where that
    cannot be read."""
    try:
        when = datetime.fromisoformat(at).replace(tzinfo=None) if at else None
    except ValueError:
        when = None
    with workshop.store.writing() as session:
        plate = plates.plate_of(session, plate_id)
        root = workshop.store.objects.put(session, stack)
        proofs.add_proof(session, plate, root, name, note, None, when)
    workshop.took(root, stack)


def reword(workshop: Workshop, plate_id: int, proof_id: int, name: str, note: str) -> None:
    """Another name and note for a proof."""
    name, note = _worded(name, note)
    with workshop.store.writing() as session:
        kept = proofs.proof_of(session, plates.plate_of(session, plate_id), proof_id)
        kept.name, kept.note = name, note


def plain_list(workshop: Workshop, plate_id: int) -> list[Pulled]:
    """The proofs of a plate, the newest first, without how they differ."""
    with workshop.store.session() as session:
        kept = proofs.proofs_of(session, plates.plate_of(session, plate_id))
        return [Pulled(one.id, one.root, one.name, one.note, one.at) for one in kept]


def compared(workshop: Workshop, current: Current, proof: Pulled) -> Pulled:
    """A proof with how it differs from now."""
    try:
        workshop.check(proof.root)
        found = apart(workshop, current.stack, workshop.stack(proof.root))
    except GlypticError as error:
        return Pulled(proof.id, proof.root, proof.name, proof.note, proof.at, trouble=str(error))
    return Pulled(proof.id, proof.root, proof.name, proof.note, proof.at, found)


def stack_of(workshop: Workshop, plate_id: int, proof_id: int) -> tuple[str, Stack]:
    """The name and the state of a proof; raises a GlypticError where it cannot be drawn."""
    with workshop.store.session() as session:
        kept = proofs.proof_of(session, plates.plate_of(session, plate_id), proof_id)
        name, root = kept.name, kept.root
    workshop.check(root)
    return name, workshop.stack(root)


def return_to(workshop: Workshop, plate_id: int, revision: int, proof_id: int, token: str | None = None) -> Current:
    """Make a proof the current state, by a step like any other."""
    name, stack = stack_of(workshop, plate_id, proof_id)
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        if token is not None and kept_already(workshop, plate_id, token):
            return current
        check_revision(current, revision)
        if stack != current.stack:
            chosen = current.chosen if stack.holds(current.chosen) else stack.layers[-1].id
            keep_after(workshop, current, stack, f"Returned to proof ‘{name}’", chosen, token)
        return workshop.current(plate_id)
