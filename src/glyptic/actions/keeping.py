"""The one way by which a state comes to be kept: through the gate, whole, and only on the state it was made on."""

from __future__ import annotations

from glyptic.actions.workshop import Current, Workshop
from glyptic.document.values import Stack
from glyptic.store import plates
from glyptic.store.tables import Plate


def keep_after(
    workshop: Workshop, current: Current, stack: Stack, sentence: str, chosen: str, token: str | None = None
) -> None:
    """Keep a state after the current one of its plate; raises StaleEdit where that has moved on meanwhile, Stopped
    where whoever asked for it wants it no longer. token: what the page named it."""
    workshop.edits[current.plate_id] += 1
    workshop.admit(stack)
    workshop.stops.check()
    store = workshop.store
    with store.writing() as session:
        plate = plates.plate_of(session, current.plate_id)
        revision = plates.add_revision(
            session, store.objects, plate, stack, sentence, chosen, current.revision, current.head, token
        )
        root = revision.root
    workshop.took(root, stack)


def keep_first(workshop: Workshop, name: str, asset: str, stack: Stack, sentence: str) -> int:
    """Put a new plate with its first state on the shelf; returns its id."""
    workshop.admit(stack)
    chosen = stack.layers[-1].id
    with workshop.store.writing() as session:
        plate = Plate(name=name, asset_hash=asset, chosen=chosen)
        session.add(plate)
        session.flush()
        plates.add_revision(session, workshop.store.objects, plate, stack, sentence, chosen)
        return plate.id
