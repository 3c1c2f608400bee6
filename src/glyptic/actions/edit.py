"""Apply an edit to a plate, or try one without keeping it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from glyptic.actions.keeping import keep_after
from glyptic.actions.kits.adding import add_kit
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, StaleEdit
from glyptic.document.edits import EDITS, Edited
from glyptic.document.tree import unlinked_links
from glyptic.document.values import Stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.store import plates


def edited(stack: Stack, name: str, arguments: Mapping[str, Any]) -> Edited:
    """The result of an edit by name; raises DocumentError or NotFound."""
    edit = EDITS.get(name)
    if edit is None:
        raise DocumentError([Fault("edit", f"{name[:40]!r} is not an edit Glyptic knows")])
    faults: list[Fault] = []
    values = edit.schema.parse(arguments, "", faults)
    if values is None:
        raise DocumentError(faults)
    result = edit.apply(stack, values, VOCABULARY)
    for layer, why in unlinked_links(result.stack):
        raise DocumentError([Fault("mask", f"of ‘{layer.name}’ {why}. Unlink that mask first, or choose another")])
    notes = result.stack.notes.among(result.stack.holds)
    return result if notes is result.stack.notes else replace(result, stack=replace(result.stack, notes=notes))


Wider = Callable[[Workshop, Stack, Mapping[str, Any]], Edited]
WIDER: dict[str, Wider] = {"add-kit": add_kit}
"""Edits that read pictures or find something in them on their way."""


def worked_out(workshop: Workshop, stack: Stack, name: str, arguments: Mapping[str, Any]) -> Edited:
    """The result of an edit by name, whatever it needs beside the document; raises DocumentError or NotFound."""
    wider = WIDER.get(name)
    return edited(stack, name, arguments) if wider is None else wider(workshop, stack, arguments)


def _once(workshop: Workshop, current: Current, name: str, arguments: Mapping[str, Any]) -> Edited:
    """As `worked_out`, of a plate's current state; what is shown before it is kept is worked out once."""
    key = current.root, name, repr(arguments)
    found: Edited = workshop.tried.get_or(key, lambda: worked_out(workshop, current.stack, name, arguments))
    return found


def check_revision(current: Current, revision: int) -> None:
    """Raises StaleEdit for an edit made on another revision than the current one."""
    if revision != current.revision:
        raise StaleEdit(plates.STALE)


def apply_edit(
    workshop: Workshop, plate_id: int, revision: int, name: str, arguments: Mapping[str, Any], token: str | None = None
) -> Current:
    """Apply an edit to the current revision and store it; an edit that changes nothing leaves no step. token: what the
    page named the edit; one that was kept before is not kept again, so that it may be sent until an answer comes."""
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        if token is not None and kept_already(workshop, plate_id, token):
            return current
        check_revision(current, revision)
        return keep(workshop, current, _once(workshop, current, name, arguments), token)


def kept_already(workshop: Workshop, plate_id: int, token: str) -> bool:
    """Whether what the page named so was kept before."""
    with workshop.store.session() as session:
        return plates.kept_already(session, plates.plate_of(session, plate_id), token)


def keep(workshop: Workshop, current: Current, result: Edited, token: str | None = None) -> Current:
    """Store the result of an edit as a new revision. token: what the page named it."""
    if result.stack == current.stack:
        return current
    keep_after(workshop, current, result.stack, result.sentence, result.choose or current.chosen, token)
    return workshop.current(current.plate_id)


def try_edit(workshop: Workshop, plate_id: int, name: str, arguments: Mapping[str, Any]) -> Stack:
    """The stack an edit would give of the current state, while it is still being dragged; nothing is stored."""
    current = workshop.current(plate_id)
    stack = worked_out(workshop, current.stack, name, arguments).stack
    workshop.admit(stack)
    return stack


def before_keeping(workshop: Workshop, plate_id: int, revision: int, name: str, arguments: Mapping[str, Any]) -> Stack:
    """The stack of an edit that is about to be applied; raises StaleEdit where it has been, or another has."""
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        check_revision(current, revision)
        stack = _once(workshop, current, name, arguments).stack
        workshop.admit(stack)
        return stack


def choose_layer(workshop: Workshop, plate_id: int, layer_id: str) -> Current:
    """Remember which layer is being worked on."""
    with workshop.store.writing() as session:
        plates.plate_of(session, plate_id).chosen = layer_id
    return workshop.current(plate_id)
