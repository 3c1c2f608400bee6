"""A kit laid on a plate: an edit like any other, but for what it finds and reads on its way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from glyptic.actions.kits.fitting import fitted_layer
from glyptic.actions.kits.flags import finds, flags
from glyptic.actions.kits.pictures import KeptPictures
from glyptic.actions.workshop import Workshop
from glyptic.base.digests import digest
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Canvas
from glyptic.document.edits.edit import Edited
from glyptic.document.kits import Kit, added, read_kit, scaled_kit
from glyptic.document.opposites import opposite_kit
from glyptic.document.values import Layer, Mask, Stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Real, Schema, Toggle, Whole
from glyptic.store import kits

ARGUMENTS = Schema(
    {
        "kit": Whole(label="Kit", low=1, high=2**53),
        "strength": Real(label="Strength", low=0, high=1, default=1.0, unit="%", help="The opacity of its group."),
        "closed": Toggle(label="Closed", default=False, help="Its group begins with a closed mask, to be painted in."),
        "opposite": Toggle(label="Turned over", default=False, help="The kit doing the contrary."),
    }
)


def kept_kit(workshop: Workshop, kit_id: int) -> Kit:
    """A kit of the data folder; raises NotFound, or DocumentError where it cannot be read any more."""
    with workshop.store.session() as session:
        content = kits.kit_of(session, kit_id).content
    return kit_in(workshop, content)


def kit_in(workshop: Workshop, content: str) -> Kit:
    """The kit of what is kept of one, read once."""
    return workshop.kits.get_or(digest(content.encode()), lambda: read_kit(content, VOCABULARY))


def add_kit(workshop: Workshop, stack: Stack, arguments: Mapping[str, Any]) -> Edited:
    """A kit put last, in one group of its name that is then chosen; raises DocumentError or NotFound."""
    return put_kit(workshop, stack, arguments)


def put_kit(
    workshop: Workshop, stack: Stack, arguments: Mapping[str, Any], told: Sequence[str] | None = None
) -> Edited:
    """As `add_kit`. told: what is to be said of what the kit finds, where that was looked at already."""
    faults: list[Fault] = []
    asked = ARGUMENTS.parse(arguments, "", faults)
    if asked is None:
        raise DocumentError(faults)
    kit = kept_kit(workshop, int(asked["kit"]))
    if asked["opposite"]:
        kit = opposite_kit(kit, VOCABULARY) or _without_opposite(kit)
    pictures = KeptPictures(workshop, stack.base.source)
    laid = laid_on(workshop, stack, kit, pictures, asked["strength"])
    if told is not None:
        pictures.notes += told
    elif finds(kit):
        pictures.notes += flags(laid, workshop.plan, stack)
    if asked["closed"]:
        laid = _closed(laid, stack)
    scaled = "" if kit.size == tuple(workshop.base_of(stack).canvas) else ", scaled to this picture"
    at = "" if asked["strength"] == 1 else f" at {asked['strength'] * 100:.0f} %"
    notes = "".join(f"; {note}" for note in dict.fromkeys(pictures.notes))
    return Edited(laid, f"Kit ‘{kit.name}’ added{at}{scaled}{notes}", _groups(laid, stack)[0].id)


def laid_on(workshop: Workshop, stack: Stack, kit: Kit, pictures: KeptPictures, strength: float) -> Stack:
    """The stack of a plate with a kit on it at a strength of 0..1 (stack-format.md, kits)."""
    canvas = workshop.base_of(stack).canvas
    sheet = Canvas(*stack.frame.sheet) if stack.frame is not None else canvas
    scaled = scaled_kit(kit, canvas, sheet, VOCABULARY, pictures.notes)
    layers = tuple(fitted_layer(layer, canvas, pictures) for layer in scaled.layers)
    over = tuple(fitted_layer(layer, sheet, pictures) for layer in scaled.frame_layers)
    return added(stack, replace(scaled, layers=layers, frame_layers=over), canvas, strength)


def _without_opposite(kit: Kit) -> Kit:
    raise DocumentError([Fault("opposite", f"is not to be had of ‘{kit.name}’: nothing in it has a contrary")])


def _groups(laid: Stack, before: Stack) -> list[Layer]:
    """The groups that a kit was put into."""
    known = {layer.id for layer in before.walk()}
    return [layer for layer in (*laid.layers, *laid.sheet_layers) if layer.id not in known]


def _closed(laid: Stack, before: Stack) -> Stack:
    for group in _groups(laid, before):
        laid = laid.replaced(replace(group, mask=Mask(start="closed")))
    return laid
