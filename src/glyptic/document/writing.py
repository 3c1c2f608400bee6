"""Values to plain data: what the stack file, the store and the page are written from."""

from __future__ import annotations

import json
from typing import Any

from glyptic.document import fields
from glyptic.document.carriage import CARRIAGES
from glyptic.document.codec import layer_head
from glyptic.document.notes import plain_notes
from glyptic.document.plain_strokes import plain_stroke
from glyptic.document.values import FORMAT, VERSION, Layer, Mask, Part, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Values


def write_stack(stack: Stack, vocabulary: Vocabulary) -> str:
    """The text of the stack file."""
    return json.dumps(plain_stack(stack, vocabulary), ensure_ascii=False, allow_nan=False, indent=1) + "\n"


def plain_stack(stack: Stack, vocabulary: Vocabulary) -> dict[str, Any]:
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "working_space": stack.working_space,
        "layers": [plain_layer(layer, vocabulary, i == 0) for i, layer in enumerate(stack.layers)],
        **plain_notes(stack.notes),
    }
    if stack.frame is None:
        return plain
    over = [plain_layer(layer, vocabulary) for layer in stack.frame.layers]
    return {**plain, "frame": {**fields.FRAME.plain(stack.frame.settings), "layers": over}}


def plain_layer(layer: Layer, vocabulary: Vocabulary, is_base: bool = False) -> dict[str, Any]:
    """A layer as the stack file has it; what is at its default is left out."""
    kind = vocabulary.kinds[layer.kind]
    head = layer_head(kind)
    common = head.plain(Values({name: getattr(layer, name) for name in head.params}))
    out: dict[str, Any] = {"id": layer.id} if layer.id else {}
    out |= {"kind": layer.kind, "name": layer.name}
    if not is_base:
        out |= common
    elif layer.locked:
        out["locked"] = True
    if kind.schema.params:
        out["settings"] = kind.schema.plain(layer.settings)
    if layer.mask is not None:
        out["mask"] = plain_mask(layer.mask, vocabulary)
    return out | CARRIAGES[kind.carries].plain(layer, lambda child: plain_layer(child, vocabulary))


def plain_mask(mask: Mask, vocabulary: Vocabulary) -> dict[str, Any]:
    head = Values({name: getattr(mask, name) for name in fields.MASK_HEAD.params})
    return {
        "start": mask.start,
        **fields.MASK_HEAD.plain(head),
        "parts": [plain_part(p, vocabulary) for p in mask.parts],
    }


def plain_part(part: Part, vocabulary: Vocabulary) -> dict[str, Any]:
    kind = vocabulary.parts[part.kind]
    start: dict[str, Any] = {"kind": part.kind} if part.enabled else {"kind": part.kind, "enabled": False}
    if kind.carries == "strokes":
        return {**start, "strokes": [plain_stroke(s) for s in part.strokes]}
    head = Values({name: getattr(part, name) for name in fields.PART_HEAD.params})
    return {**start, **fields.PART_HEAD.plain(head), **kind.schema.plain(part.settings)}
