"""Layers that do the contrary: lighter for darker, cooler for warmer, less for more."""

from __future__ import annotations

from dataclasses import replace

from glyptic.document.kits import Kit
from glyptic.document.values import Layer, Stroke
from glyptic.document.vocabulary import Vocabulary

TURNED, LONGEST = ", turned over", 66
"""What a kit is called that does the contrary, and how much of its name there is room for before that."""


def opposite_layer(layer: Layer, vocabulary: Vocabulary) -> Layer:
    """A layer, and those in it, doing the contrary: settings as its kind declares, and a painting that darkens where it
    lightened. Masks stay. The same layer where there is no contrary to it."""
    kind = vocabulary.kinds[layer.kind]
    settings = kind.opposite(layer.settings) if layer.settings else layer.settings
    strokes = tuple(_turned(stroke) for stroke in layer.strokes)
    inner = tuple(opposite_layer(child, vocabulary) for child in layer.layers)
    return replace(layer, settings=settings, strokes=strokes, layers=inner)


def _turned(stroke: Stroke) -> Stroke:
    return stroke if stroke.to is None else replace(stroke, to=1 - stroke.to)


def opposite_kit(kit: Kit, vocabulary: Vocabulary) -> Kit | None:
    """The kit doing the contrary, under a name that says so; None where nothing in it has one."""
    layers, over = (tuple(opposite_layer(x, vocabulary) for x in row) for row in (kit.layers, kit.frame_layers))
    if (layers, over) == (kit.layers, kit.frame_layers):
        return None
    return replace(kit, name=f"{kit.name[:LONGEST]}{TURNED}", layers=layers, frame_layers=over)
