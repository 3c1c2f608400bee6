"""Edits of a layer's mask: add, remove, copy, and its parts."""

from __future__ import annotations

from dataclasses import replace

from glyptic.document.codec import parse_part
from glyptic.document.edits.edit import (
    Edit,
    Edited,
    Index,
    LayerId,
    Unchecked,
    arguments,
    quoted,
    refuse,
    unlocked,
)
from glyptic.document.tree import layer_of
from glyptic.document.values import Layer, Mask, Part, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Toggle, Values


def _maskable(stack: Stack, layer_id: str) -> Layer:
    layer = unlocked(stack, layer_id)
    if layer.id == stack.base.id:
        raise refuse("mask", "cannot stand on the base picture; add a layer and mask that")
    return layer


def _with_mask(layer_id: str, stack: Stack) -> tuple[Layer, Mask]:
    layer = unlocked(stack, layer_id)
    if layer.mask is None:
        raise refuse("mask", f"{quoted(layer)} has no mask")
    return layer, layer.mask


def _part_at(mask: Mask, index: int) -> Part:
    if index >= len(mask.parts):
        raise refuse("part", "is no longer there")
    return mask.parts[index]


def _add_mask(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = _maskable(stack, args["layer"])
    if layer.mask is not None:
        raise refuse("mask", f"{quoted(layer)} has a mask already")
    new = replace(layer, mask=Mask(start=args["start"]))
    return Edited(stack.replaced(new), f"Mask of {quoted(layer)} started {args['start']}")


ADD_MASK = Edit(
    "add-mask",
    arguments(layer=LayerId(), start=Choice(options=("open", "closed"), default="open")),
    _add_mask,
)


def _remove_mask(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, _ = _with_mask(args["layer"], stack)
    return Edited(stack.replaced(replace(layer, mask=None)), f"Mask of {quoted(layer)} removed")


REMOVE_MASK = Edit("remove-mask", arguments(layer=LayerId()), _remove_mask)


def _take_mask(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    giver, mask = _with_mask(args["from"], stack)
    taker = _maskable(stack, args["layer"])
    if giver.id == taker.id:
        raise refuse("from", "is the layer itself")
    if taker.mask is not None:
        raise refuse("layer", f"{quoted(taker)} has a mask already; remove it first")
    mask_taken = replace(mask, invert=not mask.invert, grow=-mask.grow) if args["invert"] else mask
    stack = stack.replaced(replace(taker, mask=mask_taken))
    if not args["copy"]:
        stack = stack.replaced(replace(layer_of(stack, giver.id), mask=None))
    verb = f"{'inverted and ' if args['invert'] else ''}{'copied' if args['copy'] else 'moved'}"
    return Edited(stack, f"Mask of {quoted(giver)} {verb} to {quoted(taker)}", taker.id)


TAKE_MASK = Edit(
    "take-mask",
    arguments(
        **{"layer": LayerId(), "from": LayerId(), "copy": Toggle(default=False), "invert": Toggle(default=False)}
    ),
    _take_mask,
)


def _add_part(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = _maskable(stack, args["layer"])
    part = parse_part(args["part"], vocabulary, "part")
    start = "closed" if layer.mask is None and part.op == "show" else "open"
    mask = layer.mask or Mask(start=start)
    new = replace(layer, mask=replace(mask, parts=(*mask.parts, part)))
    return Edited(stack.replaced(new), f"{_called(part, vocabulary)} added to the mask of {quoted(layer)}")


ADD_PART = Edit("add-part", arguments(layer=LayerId(), part=Unchecked()), _add_part)


def _put_part(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    if args["part"] is None:
        return _add_part(stack, Values({"layer": args["layer"], "part": args["value"]}), vocabulary)
    layer, mask = _with_mask(args["layer"], stack)
    _part_at(mask, args["part"])
    part = parse_part(args["value"], vocabulary, "value")
    parts = (*mask.parts[: args["part"]], part, *mask.parts[args["part"] + 1 :])
    new = replace(layer, mask=replace(mask, parts=parts))
    return Edited(stack.replaced(new), f"{_called(part, vocabulary)} in the mask of {quoted(layer)} found anew")


PUT_PART = Edit("put-part", arguments(layer=LayerId(), part=Index(default=None), value=Unchecked()), _put_part)


def _called(part: Part, vocabulary: Vocabulary) -> str:
    return part.name or vocabulary.parts[part.kind].title


def _remove_part(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, mask = _with_mask(args["layer"], stack)
    index = args["part"]
    part = _part_at(mask, index)
    parts = mask.parts[:index] + mask.parts[index + 1 :]
    new = replace(layer, mask=replace(mask, parts=parts))
    return Edited(stack.replaced(new), f"{_called(part, vocabulary)} removed from the mask of {quoted(layer)}")


REMOVE_PART = Edit("remove-part", arguments(layer=LayerId(), part=Index()), _remove_part)


def _move_part(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, mask = _with_mask(args["layer"], stack)
    part = _part_at(mask, args["part"])
    parts = [p for i, p in enumerate(mask.parts) if i != args["part"]]
    parts.insert(args["to"], part)
    new = replace(layer, mask=replace(mask, parts=tuple(parts)))
    return Edited(stack.replaced(new), f"Parts of the mask of {quoted(layer)} put in another order")


MOVE_PART = Edit("move-part", arguments(layer=LayerId(), part=Index(), to=Index()), _move_part)
