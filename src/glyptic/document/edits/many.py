"""Edits of several chosen layers at once, each one step of the log."""

from __future__ import annotations

from dataclasses import replace

from glyptic.base.errors import NotFound
from glyptic.document.edits.edit import Edit, Edited, Ids, Unchecked, arguments, quoted, refuse, unlocked
from glyptic.document.edits.settings import SET
from glyptic.document.tree import Layers, inserted, layer_of, siblings_of, without
from glyptic.document.values import Layer, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Values

TOGETHER = ("opacity", "blend", "locked", "mark")


def _what(layers: Layers) -> str:
    return quoted(layers[0]) if len(layers) == 1 else f"{len(layers)} layers"


def _chosen(stack: Stack, ids: tuple[str, ...]) -> Layers:
    """The layers in the order of the stack, without the base and without those that lie inside another one of them."""
    wanted = set(ids)
    if stack.base.id in wanted:
        raise refuse("layers", "The base picture stays as it is and where it is; choose other cards")
    found = tuple(layer for layer in stack.walk() if layer.id in wanted)
    if len(found) < len(wanted):
        raise NotFound("One of these layers is no longer there; the page shows what is.")
    inside = {inner.id for layer in found for inner in Stack(layer.layers).walk()}
    return tuple(layer for layer in found if layer.id not in inside)


def _set_all(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layers = _chosen_flat(stack, args["layers"])
    sentence = ""
    for layer in layers:
        values = {"layer": layer.id, "field": args["field"], "value": args["value"]}
        edited = SET.apply(stack, Values(values), vocabulary)
        stack, sentence = edited.stack, edited.sentence
    if len(layers) > 1:
        sentence = f"{sentence.split(' of ', 1)[0] if ' of ' in sentence else args['field'].title()} of {_what(layers)}"
    return Edited(stack, sentence)


def _chosen_flat(stack: Stack, ids: tuple[str, ...]) -> Layers:
    if stack.base.id in ids:
        raise refuse("layers", "The base picture stays as it is; choose other cards")
    return tuple(layer_of(stack, layer_id) for layer_id in dict.fromkeys(ids))


SET_ALL = Edit(
    "set-layers", arguments(layers=Ids(), field=Choice(label="Field", options=TOGETHER), value=Unchecked()), _set_all
)


def _row_of(stack: Stack, layers: Layers) -> Layers:
    """The row that all of some layers stand in."""
    row = siblings_of(stack, layers[0].id)
    if any(layer not in row for layer in layers):
        raise refuse("layers", "The chosen cards stand in different groups; move those of one group at a time")
    return row


def _replaced_row(stack: Stack, old: Layers, new: Layers) -> Stack:
    if old == stack.layers:
        return replace(stack, layers=new)
    if stack.frame is not None and old == stack.frame.layers:
        return replace(stack, frame=replace(stack.frame, layers=new))
    group = next(layer for layer in stack.walk() if layer.layers == old)
    return stack.replaced(replace(group, layers=new))


def _step(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layers = _chosen(stack, args["layers"])
    for layer in layers:
        unlocked(stack, layer.id)
    row = _row_of(stack, layers)
    moved, least = list(row), 1 if row[0] is stack.base else 0
    places = [i for i, layer in enumerate(row) if layer in layers]
    by = 1 if args["by"] == "later" else -1
    for place in sorted(places, reverse=by > 0):
        there = place + by
        if least <= there < len(moved) and moved[there] not in layers:
            moved[place], moved[there] = moved[there], moved[place]
    if tuple(moved) == row:
        where = "last" if by > 0 else "first"
        raise refuse("layers", f"{_what(layers)} cannot go any further: it is the {where} there")
    return Edited(_replaced_row(stack, row, tuple(moved)), f"{_what(layers)} moved {args['by']}")


STEP = Edit("move-layers", arguments(layers=Ids(), by=Choice(label="Direction", options=("earlier", "later"))), _step)


def _group_of(stack: Stack, layer: Layer) -> Layer | None:
    return next((group for group in stack.walk() if any(child.id == layer.id for child in group.layers)), None)


def _take_out(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layers = _chosen(stack, args["layers"])
    groups = {layer.id: _group_of(stack, unlocked(stack, layer.id)) for layer in layers}
    inside = [layer for layer in layers if groups[layer.id] is not None]
    if not inside:
        raise refuse("layers", f"{_what(layers)} is in no group")
    for layer in reversed(inside):
        group = groups[layer.id]
        assert group is not None  # noqa: S101
        stack = inserted(without(stack, [layer.id]), (layer,), after=group.id)
    return Edited(
        stack, f"{_what(tuple(inside))} taken out of {quoted(groups[inside[0].id] or inside[0])}", inside[0].id
    )


TAKE_OUT = Edit("take-out", arguments(layers=Ids()), _take_out)
