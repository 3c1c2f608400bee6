"""Layers that are moved across the frame: from the picture onto the sheet, and back."""

from __future__ import annotations

from glyptic.base.errors import DocumentError
from glyptic.document.edits.edit import refuse
from glyptic.document.moving import carried_layer
from glyptic.document.values import FRAME, Layer, Stack
from glyptic.document.vocabulary import Vocabulary

STAYS = "cannot go across the frame as it is, and nothing was changed"


def on_sheet(stack: Stack, layer_id: str) -> bool:
    """Whether a layer lies over the sheet."""
    return any(layer.id == layer_id for layer in Stack(stack.sheet_layers).walk())


def drawn_at(stack: Stack, layer_id: str, x: float, y: float) -> tuple[float, float]:
    """Where in what a layer is drawn in a place of what comes out lies."""
    frame = stack.frame
    if frame is None or not frame.enabled or on_sheet(stack, layer_id):
        return x, y
    return frame.onto.at(x, y)


def carried_across(
    stack: Stack, layer: Layer, before: str | None, into: str | None, vocabulary: Vocabulary
) -> tuple[Layer, str]:
    """(the layer as it is where it goes to, what that meant in words): before another one, or at the end of a group, of
    the sheet (`into` the frame), or of the picture's own. Raises DocumentError where it cannot be carried exactly."""
    goes_onto = into == FRAME or any(on_sheet(stack, place) for place in (before, into) if place is not None)
    if stack.frame is None or on_sheet(stack, layer.id) == goes_onto:
        return layer, ""
    by = stack.frame.onto.inverse if goes_onto else stack.frame.onto
    try:
        carried = carried_layer(layer, by, vocabulary)
    except DocumentError as error:
        why = "; ".join(f"{fault.field} {fault.message}" for fault in error.faults)
        raise refuse(layer.name, f"{STAYS}: {why}") from error
    where = "onto the sheet" if goes_onto else "back to the picture"
    moved = ", and what is drawn on it lies where it lay" if carried != layer else ""
    return carried, f" {where}{moved}"
