"""The files a stack refers to, by other names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from glyptic.document.values import Layer, Part, Stack
from glyptic.params import Values

Rename = Callable[[str], str]
SOURCE = "source"


def with_sources(stack: Stack, rename: Rename) -> Stack:
    """The stack with every source under another name."""
    return stack.with_rows(lambda row: tuple(_layer(layer, rename) for layer in row))


def _layer(layer: Layer, rename: Rename) -> Layer:
    mask = layer.mask
    if mask is not None:
        mask = replace(mask, parts=tuple(_part(part, rename) for part in mask.parts))
    inner = tuple(_layer(child, rename) for child in layer.layers)
    return replace(layer, source=rename(layer.source) if layer.source else "", mask=mask, layers=inner)


def _part(part: Part, rename: Rename) -> Part:
    if SOURCE not in part.settings:
        return part
    return replace(part, settings=Values({**part.settings, SOURCE: rename(part.settings[SOURCE])}))
