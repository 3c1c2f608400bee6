"""The edit that sets one field of a layer, of its settings, its mask or a part of it."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any, cast

from glyptic.base.errors import DocumentError, Fault
from glyptic.document import fields
from glyptic.document.carriage import parsed_place
from glyptic.document.codec import layer_head, parse_part
from glyptic.document.edits.edit import (
    Edit,
    Edited,
    Index,
    LayerId,
    Numbers,
    Unchecked,
    arguments,
    quoted,
    refuse,
    set_in,
    unlocked,
)
from glyptic.document.edits.frame import set_field
from glyptic.document.moving import carried_mask
from glyptic.document.placing import moved
from glyptic.document.tree import layer_of
from glyptic.document.values import FRAME, Layer, Mask, Place, Stack
from glyptic.document.vocabulary import PickedPart, Vocabulary
from glyptic.document.writing import plain_part
from glyptic.params import Group, Param, Real, Text, Toggle, Values
from glyptic.params.nested import titled

PART_FIELD = re.compile(r"mask\.parts\[(\d+)\](?:\.(.+))?")
ALWAYS_ALLOWED = ("locked", "name", "visible")


def _parsed(param: Param, raw: object, field: str) -> object:
    faults: list[Fault] = []
    value = param.parse(raw, field, faults)
    if faults:
        raise DocumentError([titled(fault, param.label) for fault in faults])
    return value


def shown(param: Param, value: object) -> str:
    """A value as the log writes it: the number with its unit, the word, on or off."""
    if isinstance(param, Real) and isinstance(value, int | float):
        text = f"{value * param.factor:.3f}".rstrip("0").rstrip(".")
        return f"{text} {param.unit}".strip()
    if isinstance(value, bool):
        return "on" if value else "off"
    return value if isinstance(value, str) else "changed"


def _head(layer: Layer, field: str, raw: object, vocabulary: Vocabulary) -> tuple[Layer, str]:
    param = layer_head(vocabulary.kinds[layer.kind]).params[field]
    value = _parsed(param, raw, field)
    if field == "blend" and layer.kind == "group" and layer.mode == "through" and value != "normal":
        raise refuse("blend", "of a through group is always normal; make it isolated first")
    what = f"{param.label} of {quoted(layer)}: {shown(param, value)}"
    if field == "name":
        what = f"{quoted(layer)} is now ‘{value}’"
    changes: dict[str, Any] = {field: value}
    return replace(layer, **changes), what


def _settings(layer: Layer, path: list[str], raw: object, vocabulary: Vocabulary) -> tuple[Layer, str]:
    schema = vocabulary.kinds[layer.kind].schema
    if path[0] not in schema.params:
        raise refuse(f"settings.{path[0]}", "is not a field Glyptic knows")
    faults: list[Fault] = []
    values = schema.parse(set_in(schema.plain(layer.settings), path, raw), "settings", faults)
    if values is None:
        raise DocumentError(faults)
    param = schema.params[path[0]]
    value = values[path[0]]
    word = shown(param, value)
    if len(path) > 1 and word == "changed":
        inner = param.schema.params.get(path[1]) if isinstance(param, Group) else None
        word = f"{inner.label.lower() if inner else path[-1]} changed"
    return replace(layer, settings=values), f"{param.label} of {quoted(layer)}: {word}"


def _with(layer: Layer, changes: dict[str, Any], vocabulary: Vocabulary) -> Layer:
    """The layer with some of its settings changed, from plain data."""
    schema = vocabulary.kinds[layer.kind].schema
    faults: list[Fault] = []
    values = schema.parse(schema.plain(layer.settings) | changes, "settings", faults)
    if values is None:
        raise DocumentError(faults)
    return replace(layer, settings=values)


def _several(layer: Layer, raw: object, vocabulary: Vocabulary) -> tuple[Layer, str]:
    """Several settings at once, as a hand on the picture sets them."""
    if not isinstance(raw, dict) or not raw:
        raise refuse("settings", "must be an object of settings")
    changed = _with(layer, raw, vocabulary)
    sentence = " and ".join(vocabulary.kinds[layer.kind].schema.params[name].label.lower() for name in raw)
    return changed, f"{sentence.capitalize()} of {quoted(layer)} changed"


def _mask_head(layer: Layer, field: str, raw: object) -> tuple[Layer, str]:
    field, *inner = field.split(".")
    if field not in fields.MASK_HEAD.params:
        raise refuse(f"mask.{field}", "is not a field Glyptic knows")
    param = fields.MASK_HEAD.params[field]
    mask = layer.mask or Mask()
    value = _parsed(param, set_in(param.plain(getattr(mask, field)), inner, raw), f"mask.{field}")
    changes: dict[str, Any] = {field: value}
    return replace(
        layer, mask=replace(mask, **changes)
    ), f"{param.label} of the mask of {quoted(layer)}: {shown(param, value)}"


def _part(layer: Layer, index: int, field: str | None, raw: object, vocabulary: Vocabulary) -> tuple[Layer, str]:
    mask = layer.mask
    if mask is None or index >= len(mask.parts):
        raise refuse(f"mask.parts[{index}]", "is no longer there")
    old = mask.parts[index]
    title = vocabulary.parts[old.kind].title
    if field == "enabled":
        in_use = bool(_parsed(fields.PART_IN_USE, raw, f"mask.parts[{index}].enabled"))
        new = replace(old, enabled=in_use)
        parts = (*mask.parts[:index], new, *mask.parts[index + 1 :])
        word = "on" if in_use else "off"
        return replace(layer, mask=replace(mask, parts=parts)), f"{title} in the mask of {quoted(layer)} {word}"
    if vocabulary.parts[old.kind].carries == "strokes":
        raise refuse(f"mask.parts[{index}].{field}", "cannot be set on a painted part")
    plain = plain_part(old, vocabulary)
    if field is not None:
        plain = set_in(plain, field.split("."), raw)
    elif isinstance(raw, dict):
        plain |= raw
    else:
        raise refuse(f"mask.parts[{index}]", "must be an object of settings")
    new = parse_part(plain, vocabulary, f"mask.parts[{index}]")
    parts = (*mask.parts[:index], new, *mask.parts[index + 1 :])
    return replace(layer, mask=replace(mask, parts=parts)), f"{title} in the mask of {quoted(layer)} changed"


def _place(layer: Layer, field: str, raw: object, vocabulary: Vocabulary) -> tuple[Layer, str]:
    """A picture laid elsewhere: by one number of its place, or by several, or by its corners."""
    old = layer.place
    if old is None or (field and (old.corners is not None or field not in fields.PLACE.params)):
        raise refuse(f"place.{field}" if field else "place", "cannot be set here")
    asked = {field: raw} if field else raw
    if not isinstance(asked, dict):
        raise refuse("place", "must be an object")
    if "corners" not in asked and old.corners is None:
        asked = {name: getattr(old, name) for name in fields.PLACE.params} | asked
    new = Place(**parsed_place(asked, "place"))
    if layer.mask is not None and layer.mask.along and not layer.mask.linked:
        by = moved(old, new)
        if by is None:
            raise refuse(layer.name, "has a mask that moves along, which cannot be carried to corners; let go of that")
        layer = replace(layer, mask=carried_mask(layer.mask, by, vocabulary))
    return replace(layer, place=new), f"{quoted(layer)} placed anew"


def _mode(layer: Layer, raw: object) -> tuple[Layer, str]:
    """A group that becomes through again blends in normal."""
    if layer.kind != "group":
        raise refuse("mode", "can be set on a group only")
    mode = str(_parsed(fields.MODE, raw, "mode"))
    blend = layer.blend if mode == "isolated" else "normal"
    return replace(layer, mode=mode, blend=blend), f"{quoted(layer)} is now {mode}"


def _set(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    field, raw = args["field"], args["value"]
    if args["layer"] == FRAME:
        return set_field(stack, field, raw, vocabulary)
    layer = layer_of(stack, args["layer"]) if field in ALWAYS_ALLOWED else unlocked(stack, args["layer"])
    is_base = layer.id == stack.base.id
    if is_base and field not in ("name", "locked"):
        raise refuse(field, "cannot be set on the base picture")
    part = PART_FIELD.fullmatch(field)
    if field in layer_head(vocabulary.kinds[layer.kind]).params:
        new, sentence = _head(layer, field, raw, vocabulary)
    elif field == "mode":
        new, sentence = _mode(layer, raw)
    elif part:
        new, sentence = _part(layer, int(part[1]), part[2], raw, vocabulary)
    elif field == "settings":
        new, sentence = _several(layer, raw, vocabulary)
    elif field.startswith("settings."):
        new, sentence = _settings(layer, field.split(".")[1:], raw, vocabulary)
    elif field.startswith("mask."):
        new, sentence = _mask_head(layer, field.removeprefix("mask."), raw)
    elif field == "place" or field.startswith("place."):
        new, sentence = _place(layer, field.removeprefix("place").removeprefix("."), raw, vocabulary)
    else:
        raise refuse(field[:60], "is not a field Glyptic knows")
    return Edited(stack.replaced(new), sentence)


SET = Edit("set", arguments(layer=LayerId(), field=Text(), value=Unchecked()), _set)


def _pick(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    kind = vocabulary.kinds[layer.kind]
    aid = next((aid for aid in kind.picks if aid.name == args["pick"]), None)
    if aid is None:
        raise refuse("pick", f"is nothing that {quoted(layer)} can pick")
    changes = kind.pick(layer.settings, aid.name, vocabulary.seen(args["seen"], stack.working_space), args["by"])
    return Edited(stack.replaced(_with(layer, changes, vocabulary)), f"{aid.title} for {quoted(layer)}")


def _pick_part(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    parts = layer.mask.parts if layer.mask is not None else ()
    if args["part"] >= len(parts):
        raise refuse("part", "is no longer there")
    old = parts[args["part"]]
    kind = vocabulary.parts[old.kind]
    if not hasattr(kind, "picked"):
        raise refuse("part", f"{kind.title} is not set by pressing on the picture")
    seen = vocabulary.seen(args["seen"], stack.working_space)
    plain = plain_part(old, vocabulary) | cast(PickedPart, kind).picked(old.settings, seen, args["more"])
    new = parse_part(plain, vocabulary, "part")
    mask = replace(layer.mask or Mask(), parts=(*parts[: args["part"]], new, *parts[args["part"] + 1 :]))
    return Edited(stack.replaced(replace(layer, mask=mask)), f"{kind.title} of {quoted(layer)} picked in the picture")


PICK_PART = Edit(
    "pick-part", arguments(layer=LayerId(), part=Index(), seen=Numbers(count=4), more=Toggle(default=False)), _pick_part
)
PICK = Edit(
    "pick",
    arguments(
        layer=LayerId(),
        pick=Text(),
        seen=Numbers(count=4),
        by=Real(default=0.0, low=-2, high=2),
    ),
    _pick,
)
