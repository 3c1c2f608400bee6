"""Edits of the stack itself: add, remove, duplicate, move, group, switch."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace

from glyptic.document.codec import parse_layer
from glyptic.document.edits.across import carried_across
from glyptic.document.edits.edit import (
    Edit,
    Edited,
    Ids,
    LayerId,
    Unchecked,
    arguments,
    quoted,
    refuse,
    unlocked,
)
from glyptic.document.edits.frame import removed, switched
from glyptic.document.fields import MOST_LAYERS
from glyptic.document.tree import free_ids, inserted, layer_of, siblings_of, with_new_ids, without
from glyptic.document.values import EMPTY, FRAME, Layer, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Toggle, Values


def _numbered(name: str, stack: Stack) -> str:
    """The name, with the next free number behind it if it is taken; a number it ends with gives way."""
    taken = {layer.name for layer in stack.walk()}
    number = 2
    candidate = name
    if name in taken:
        name = NUMBER.sub("", name) or name
    while candidate in taken:
        candidate = f"{name} {number}"
        number += 1
    return candidate


NUMBER = re.compile(r" \d+$")


def _room(stack: Stack, more: int = 1) -> None:
    if sum(1 for _ in stack.walk()) + more > MOST_LAYERS:
        raise refuse("layers", f"a stack holds at most {MOST_LAYERS} layers; nothing was changed")


def _add(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    _room(stack)
    layer = parse_layer(args["layer"], vocabulary, "layer")
    kind = vocabulary.kinds[layer.kind]
    name = _numbered(layer.name, stack) if layer.name == kind.title else layer.name
    layer = with_new_ids(replace(layer, name=name), free_ids(stack))
    after = args["after"]
    anchor = layer_of(stack, after) if after not in (None, FRAME) else None
    into = anchor.id if anchor is not None and anchor.kind == "group" and not args["beside"] else None
    placed = inserted(stack, (layer,), after=None if into else after, into=into)
    choose = layer.layers[0] if layer.layers else layer
    return Edited(placed, f"{quoted(layer)} added", choose.id)


ADD = Edit("add-layer", arguments(layer=Unchecked(), after=LayerId(default=None), beside=Toggle(default=False)), _add)
"""beside: after a group, not into it."""


def _neighbour(stack: Stack, layer_id: str) -> str:
    """The layer to choose when one goes: the one below it."""
    row = siblings_of(stack, layer_id)
    place = next(i for i, layer in enumerate(row) if layer.id == layer_id)
    return row[place - 1].id if place > 0 else stack.base.id


def _remove(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    if args["layers"] == (FRAME,):
        return removed(stack)
    layers = [unlocked(stack, layer_id) for layer_id in args["layers"]]
    if any(layer.id == stack.base.id for layer in layers):
        raise refuse("layers", "the base picture cannot be removed")
    what = quoted(layers[0]) if len(layers) == 1 else f"{len(layers)} layers"
    rest = without(stack, args["layers"])
    choose = _neighbour(stack, layers[0].id)
    return Edited(rest, f"{what} removed", choose if rest.find(choose) else stack.base.id)


REMOVE = Edit("remove-layers", arguments(layers=Ids()), _remove)


def _duplicate(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    make_id = free_ids(stack)
    copy = None
    for layer_id in args["layers"]:
        layer = layer_of(stack, layer_id)
        if layer.id == stack.base.id:
            raise refuse("layers", "the base picture cannot be duplicated here; add a picture layer instead")
        _room(stack)
        copy = with_new_ids(replace(layer, name=_numbered(layer.name, stack)), make_id)
        stack = inserted(stack, (copy,), after=layer.id)
    count = len(args["layers"])
    what = f"{quoted(copy)} made as a copy" if copy and count == 1 else f"{count} layers copied"
    return Edited(stack, what, copy.id if copy else None)


DUPLICATE = Edit("duplicate-layers", arguments(layers=Ids()), _duplicate)


def _move(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    if layer.id == stack.base.id:
        raise refuse("layer", "the base picture stays at the bottom")
    before, into = args["before"], args["into"]
    inside = {inner.id for inner in Stack((layer,)).walk()}
    if before in inside or into in inside:
        raise refuse("layer", "a group cannot be moved into itself")
    if into is not None and into != FRAME and layer_of(stack, into).kind != "group":
        raise refuse("into", "is not a group")
    rest = without(stack, [layer.id])
    layer, across = carried_across(stack, layer, before, into, vocabulary)
    if before == stack.base.id:
        before, moved = None, inserted(rest, (layer,), after=stack.base.id)
    else:
        moved = inserted(rest, (layer,), before=before, into=into if before is None else None)
    return Edited(moved, f"{quoted(layer)} moved{across}", layer.id)


MOVE = Edit(
    "move-layer",
    arguments(layer=LayerId(), before=LayerId(default=None), into=LayerId(default=None)),
    _move,
)


def turned(stack: Stack, ids: Iterable[str], on: bool) -> Stack:
    """The stack with some layers, or the frame, on or off."""
    for layer_id in ids:
        if layer_id == FRAME:
            stack = switched(stack, on)
        else:
            stack = stack.replaced(replace(layer_of(stack, layer_id), visible=on))
    return stack


def _show(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layers = [layer_of(stack, layer_id) for layer_id in args["layers"] if layer_id != FRAME]
    if any(layer.id == stack.base.id for layer in layers):
        raise refuse("layers", "the base picture is always on")
    names = [quoted(layer) for layer in layers] + ["Frame"] * (FRAME in args["layers"])
    what = names[0] if len(names) == 1 else f"{len(names)} layers"
    return Edited(turned(stack, args["layers"], args["visible"]), f"{what} {'on' if args['visible'] else 'off'}")


SHOW = Edit("show-layers", arguments(layers=Ids(), visible=Toggle()), _show)


def _group(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    ids = args["layers"]
    row = siblings_of(stack, ids[0])
    chosen = tuple(layer for layer in row if layer.id in ids)
    if len(chosen) != len(set(ids)):
        raise refuse("layers", "must all stand in the same row to be grouped")
    if any(layer.id == stack.base.id for layer in chosen):
        raise refuse("layers", "the base picture cannot be in a group")
    _room(stack)
    group = Layer(free_ids(stack)(), "group", _numbered("Group", stack), settings=EMPTY)
    placed = inserted(stack, (group,), after=chosen[-1].id)
    filled = without(placed, ids).replaced(replace(group, layers=chosen))
    return Edited(filled, f"{quoted(group)} made of {len(chosen)}", group.id)


GROUP = Edit("group-layers", arguments(layers=Ids()), _group)


def would_change(group: Layer) -> str:
    """Why taking a group apart would change the picture, or '' where it would not."""
    if not group.visible:
        return ""
    at_work = [layer for layer in group.layers if layer.visible and layer.opacity > 0]
    if group.mode == "isolated" and at_work:
        return "is isolated: its layers would begin to work on what lies below it"
    if len(at_work) > 1 and group.opacity != 1:
        return "weakens several layers at once by its opacity"
    if group.mask is not None and (len(at_work) > 1 or any(layer.mask is not None for layer in at_work)):
        return "masks what several masks or layers make together"
    return ""


def _freed(group: Layer) -> tuple[Layer, ...]:
    """The layers of a group, with what they owe to it taken over where it can be."""
    if not group.visible:
        return tuple(replace(layer, visible=False) for layer in group.layers)
    if would_change(group):
        return group.layers
    return tuple(
        replace(layer, opacity=layer.opacity * group.opacity, mask=layer.mask or group.mask)
        if layer.visible and layer.opacity > 0
        else layer
        for layer in group.layers
    )


def _ungroup(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    group = unlocked(stack, args["layer"])
    if group.kind != "group":
        raise refuse("layer", "is not a group")
    why = would_change(group)
    if why and not args["anyway"]:
        raise refuse(group.name, f"{why}, so taking it apart would change the picture; nothing was changed")
    emptied = stack.replaced(replace(group, layers=()))
    apart = without(inserted(emptied, _freed(group), after=group.id), [group.id])
    choose = group.layers[0].id if group.layers else stack.base.id
    return Edited(apart, f"{quoted(group)} taken apart", choose)


UNGROUP = Edit("ungroup-layer", arguments(layer=LayerId(), anyway=Toggle(default=False)), _ungroup)
