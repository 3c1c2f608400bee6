"""Moving layers about in the tree of a stack."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

from glyptic.base.errors import NotFound
from glyptic.document.values import FRAME, Layer, Stack

Layers = tuple[Layer, ...]


def layer_of(stack: Stack, layer_id: str) -> Layer:
    """The layer with an id; raises NotFound."""
    layer = stack.find(layer_id)
    if layer is None:
        raise NotFound("That layer is no longer there; the page shows what is.")
    return layer


def siblings_of(stack: Stack, layer_id: str) -> Layers:
    """The row of layers a layer stands in."""

    def search(layers: Layers) -> Layers | None:
        if any(layer.id == layer_id for layer in layers):
            return layers
        for layer in layers:
            found = search(layer.layers)
            if found is not None:
                return found
        return None

    found = search(stack.layers) or search(stack.sheet_layers)
    if found is None:
        raise NotFound("That layer is no longer there; the page shows what is.")
    return found


def unlinked_links(stack: Stack) -> Iterator[tuple[Layer, str]]:
    """(layer, why) of every mask that is linked to no mask further down, on its own side of the frame."""
    for row in (stack.layers, stack.sheet_layers):
        seen: set[str] = set()
        for layer in Stack(row).walk():
            linked = layer.mask.linked if layer.mask is not None else ""
            if linked and linked not in seen:
                found = stack.find(linked)
                what = f"‘{found.name}’, which is not further down" if found else f"{linked[:60]!r}, which is not there"
                yield layer, f"is linked to {what}"
            seen.add(layer.id)


def _each_row(layers: Layers, change: Callable[[Layers], Layers]) -> Layers:
    """Apply a change to every row of layers, innermost first."""
    inner = tuple(replace(layer, layers=_each_row(layer.layers, change)) if layer.layers else layer for layer in layers)
    changed = change(inner)
    return layers if changed == layers else changed


def without(stack: Stack, ids: Iterable[str]) -> Stack:
    """The stack without some layers (and what is in them); the base stays."""
    gone = set(ids) - {stack.base.id}
    return stack.with_rows(lambda row: _each_row(row, lambda layers: tuple(x for x in layers if x.id not in gone)))


def inserted(
    stack: Stack, new: Layers, after: str | None = None, before: str | None = None, into: str | None = None
) -> Stack:
    """The stack with layers put after or before another, at the end of a group, or at the end of the picture's own.
    After the frame is the beginning of the sheet, before it the end of the picture's, in it the end of the sheet."""

    def change(row: Layers) -> Layers:
        for i, layer in enumerate(row):
            if layer.id == after:
                return (*row[: i + 1], *new, *row[i + 1 :])
            if layer.id == before:
                place = max(i, 1) if layer.id == stack.base.id else i
                return (*row[:place], *new, *row[place:])
        return row

    frame = stack.frame
    if frame is not None and FRAME in (after, into):
        over = (*new, *frame.layers) if after == FRAME else (*frame.layers, *new)
        return replace(stack, frame=replace(frame, layers=over))
    if into is not None:
        group = layer_of(stack, into)
        return stack.replaced(replace(group, layers=(*group.layers, *new)))
    if (after is None and before is None) or before == FRAME:
        return replace(stack, layers=(*stack.layers, *new))
    return stack.with_rows(lambda row: _each_row(row, change))


def free_ids(stack: Stack) -> Callable[[], str]:
    """Makes ids that no layer of the stack has, each once."""
    taken = {layer.id for layer in stack.walk()}
    number = len(taken)

    def make() -> str:
        nonlocal number
        while f"layer-{number}" in taken:
            number += 1
        taken.add(f"layer-{number}")
        return f"layer-{number}"

    return make


def with_new_ids(layer: Layer, make_id: Callable[[], str]) -> Layer:
    """A copy of a layer and of what is in it under new ids."""
    inner = tuple(with_new_ids(child, make_id) for child in layer.layers)
    return replace(layer, id=make_id(), layers=inner)
