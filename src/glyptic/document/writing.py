"""Values to plain data: what the stack file, the store and the page are written from."""

from __future__ import annotations

import json
from typing import Any

from glyptic.document import fields
from glyptic.document.codec import layer_head
from glyptic.document.values import FORMAT, VERSION, Drives, Layer, Mask, Part, Stack, Stroke
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Values


def write_stack(stack: Stack, vocabulary: Vocabulary) -> str:
    """The text of the stack file."""
    return json.dumps(plain_stack(stack, vocabulary), ensure_ascii=False, allow_nan=False, indent=1) + "\n"


def plain_stack(stack: Stack, vocabulary: Vocabulary) -> dict[str, Any]:
    return {
        "format": FORMAT,
        "version": VERSION,
        "working_space": stack.working_space,
        "layers": [plain_layer(layer, vocabulary, i == 0) for i, layer in enumerate(stack.layers)],
    }


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
    if kind.carries == "picture":
        out["source"] = layer.source
        if layer.place is not None:
            place = layer.place
            out["place"] = {"x": place.x, "y": place.y, "scale": place.scale, "rotation": place.rotation}
    elif kind.carries == "strokes":
        out["strokes"] = [plain_stroke(s) for s in layer.strokes]
    elif kind.carries == "layers":
        if layer.mode != fields.MODE.default:
            out["mode"] = layer.mode
        out["layers"] = [plain_layer(child, vocabulary) for child in layer.layers]
    return out


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


def plain_stroke(stroke: Stroke) -> dict[str, Any]:
    return {**plain_brush(stroke), "points": [list(p) for p in stroke.points]}


def plain_brush(stroke: Stroke) -> dict[str, Any]:
    """A stroke without its points: the brush it was drawn with."""
    out: dict[str, Any] = {} if stroke.to is None else {"to": stroke.to}
    if stroke.even is not None:
        out["even"] = stroke.even
    out |= {"size": stroke.size, "hardness": stroke.hardness, "opacity": stroke.opacity, "flow": stroke.flow}
    out["spacing"] = stroke.spacing
    for what in fields.PEN:
        drives = getattr(stroke, what)
        if drives != Drives():
            out[what] = {name: getattr(drives, name) for name in fields.MEASURES}
    return out
