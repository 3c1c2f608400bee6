"""Layers copied from one plate and pasted on another, with their masks and pictures, scaled to its size."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from glyptic.actions.edit import check_revision, keep, kept_already
from glyptic.actions.kits.fitting import fitted_layer
from glyptic.actions.kits.pictures import KeptPictures
from glyptic.actions.placing import canvas_of
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Canvas
from glyptic.document.codec import parse_layer
from glyptic.document.edits.edit import Edited, quoted, refuse
from glyptic.document.fields import MOST_LAYERS
from glyptic.document.scaling import scaled_layer
from glyptic.document.tree import free_ids, inserted, layer_of, with_new_ids
from glyptic.document.values import FRAME, Layer, Stack
from glyptic.document.writing import plain_layer
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Scale, Size

FORMAT = "glyptic-layers"


def copied(workshop: Workshop, plate_id: int, ids: list[str]) -> dict[str, Any]:
    """What is copied of some layers: plain data, with the size of what they lie on. In the order of the stack."""
    stack = workshop.current(plate_id).stack
    wanted = [layer for layer in stack.walk() if layer.id in ids and layer.id != stack.base.id]
    inside = {inner.id for layer in wanted for inner in Stack(layer.layers).walk()}
    layers = [layer for layer in wanted if layer.id not in inside]
    if not layers:
        raise refuse("layers", "The base and the frame are not copied; choose other cards")
    over = canvas_of(workshop, stack, layers[0].id)
    return {"format": FORMAT, "size": list(over), "layers": [plain_layer(_alone(x), VOCABULARY) for x in layers]}


def _alone(layer: Layer) -> Layer:
    """A layer without what ties it to others: a link of its mask."""
    mask = replace(layer.mask, linked="") if layer.mask is not None else None
    return replace(layer, mask=mask, layers=tuple(_alone(child) for child in layer.layers))


def paste(
    workshop: Workshop, plate_id: int, revision: int, plain: Mapping[str, Any], after: str | None,
    token: str | None = None,
) -> Current:  # fmt: skip
    """Put copied layers after another one, scaled to what that lies on, as one step. Raises DocumentError for anything
    that is no such copy, or refers to a picture that is not here."""
    current = workshop.current(plate_id)
    if token is not None and kept_already(workshop, plate_id, token):
        return current
    check_revision(current, revision)
    made = pasted(workshop, current.stack, plain, after)
    with workshop.lock(plate_id):
        check_revision(workshop.current(plate_id), revision)
        return keep(workshop, current, made, token)


def pasted(workshop: Workshop, stack: Stack, plain: Mapping[str, Any], after: str | None) -> Edited:
    """A stack with copied layers after another one, scaled to what that lies on; raises DocumentError."""
    size, layers = _parsed(plain)
    if sum(1 for _ in stack.walk()) + sum(1 for _ in Stack(layers).walk()) > MOST_LAYERS:
        raise refuse("layers", f"a stack holds at most {MOST_LAYERS} layers; nothing was changed")
    over = canvas_of(workshop, stack, after)
    by, make_id = Scale(over.width / size.width, over.height / size.height), free_ids(stack)
    scaled, pictures = (scaled_layer(layer, by, VOCABULARY) for layer in layers), KeptPictures(workshop)
    new = tuple(with_new_ids(fitted_layer(layer, over, pictures), make_id) for layer in scaled)
    anchor = after if after == FRAME or after is None else _beside(stack, after)
    what = quoted(new[0]) if len(new) == 1 else f"{len(new)} layers"
    told = "" if by.across == by.down == 1 else f", scaled from {size.width} × {size.height}"
    return Edited(inserted(stack, new, after=anchor), f"{what} pasted{told}", new[-1].id)


def _beside(stack: Stack, after: str) -> str:
    return layer_of(stack, after).id


def _parsed(plain: Mapping[str, Any]) -> tuple[Canvas, tuple[Layer, ...]]:
    """The size and the layers of a copy; raises DocumentError with every fault."""
    if not isinstance(plain, Mapping) or plain.get("format") != FORMAT or not isinstance(plain.get("layers"), list):
        raise DocumentError([Fault("layers", "are no copied layers; copy some with Ctrl+C")])
    faults: list[Fault] = []
    size = Size().parse(plain.get("size"), "size", faults)
    if size is None or not plain["layers"] or len(plain["layers"]) > MOST_LAYERS:
        raise DocumentError([*faults, *([] if faults else [Fault("layers", "must hold some layers")])])
    items = [dict(item) if isinstance(item, Mapping) else item for item in plain["layers"]]
    return Canvas(*size), tuple(parse_layer(item, VOCABULARY, f"layers[{i}]") for i, item in enumerate(items))
