"""Moving layers about in the tree of a stack."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from glyptic.base.errors import NotFound
from glyptic.document.values import Layer, Stack

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

    found = search(stack.layers)
    if found is None:
        raise NotFound("That layer is no longer there; the page shows what is.")
    return found


def _each_row(layers: Layers, change: Callable[[Layers], Layers]) -> Layers:
    """Apply a change to every row of layers, innermost first."""
    inner = tuple(replace(layer, layers=_each_row(layer.layers, change)) if layer.layers else layer for layer in layers)
    changed = change(inner)
    return layers if changed == layers else changed


def without(stack: Stack, ids: Iterable[str]) -> Stack:
    """The stack without some layers (and what is in them); the base stays."""
    gone = set(ids) - {stack.base.id}
    return replace(stack, layers=_each_row(stack.layers, lambda row: tuple(x for x in row if x.id not in gone)))


def inserted(
    stack: Stack, new: Layers, after: str | None = None, before: str | None = None, into: str | None = None
) -> Stack:
    """The stack with layers put after or before another, at the end of a group, or at the end of the stack."""

    def change(row: Layers) -> Layers:
        for i, layer in enumerate(row):
            if layer.id == after:
                return (*row[: i + 1], *new, *row[i + 1 :])
            if layer.id == before:
                place = max(i, 1) if layer.id == stack.base.id else i
                return (*row[:place], *new, *row[place:])
        return row

    if into is not None:
        group = layer_of(stack, into)
        return stack.replaced(replace(group, layers=(*group.layers, *new)))
    if after is None and before is None:
        return replace(stack, layers=(*stack.layers, *new))
    return replace(stack, layers=_each_row(stack.layers, change))


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
