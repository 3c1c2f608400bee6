"""Layers scaled to a picture of another size, as kits are (stack-format.md): places across and down, lengths by their
mean, angles as they are."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.document import fields
from glyptic.document.sources import SOURCE
from glyptic.document.values import Frame, Layer, Mask, Part, Place, Stack, Stroke, StrokePoints
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Scale


def scaled_stroke(stroke: Stroke, by: Scale) -> Stroke:
    points = StrokePoints.of((x * by.across, y * by.down, *rest) for x, y, *rest in stroke.points)
    even = None if stroke.even is None else stroke.even * by.length
    return replace(stroke, points=points, size=stroke.size * by.length, even=even)


def scaled_place(place: Place, by: Scale) -> Place:
    if place.corners is not None:
        a, b, c, d = ((x * by.across, y * by.down) for x, y in place.corners)
        return Place(corners=(a, b, c, d))
    return replace(place, x=place.x * by.across, y=place.y * by.down, scale=place.scale * by.length)


def _part(part: Part, by: Scale, vocabulary: Vocabulary) -> Part:
    if part.strokes:
        return replace(part, strokes=tuple(scaled_stroke(stroke, by) for stroke in part.strokes))
    schema = vocabulary.parts[part.kind].schema
    feather = fields.PART_HEAD.params["feather"].scaled(part.feather, by)
    return replace(part, settings=schema.checked(schema.scaled(part.settings, by), part.kind), feather=feather)


def _mask(mask: Mask, by: Scale, vocabulary: Vocabulary) -> Mask:
    lengths: dict[str, Any] = {n: p.scaled(getattr(mask, n), by) for n, p in fields.MASK_HEAD.params.items()}
    return replace(mask, parts=tuple(_part(part, by, vocabulary) for part in mask.parts), **lengths)


def scaled_layer(layer: Layer, by: Scale, vocabulary: Vocabulary) -> Layer:
    """A layer and what is in it on a picture of another size; raises DocumentError where something leaves its range."""
    if by.across == by.down == 1:
        return layer
    schema = vocabulary.kinds[layer.kind].schema
    return replace(
        layer,
        settings=schema.checked(schema.scaled(layer.settings, by), layer.kind) if layer.settings else layer.settings,
        strokes=tuple(scaled_stroke(stroke, by) for stroke in layer.strokes),
        mask=_mask(layer.mask, by, vocabulary) if layer.mask is not None else None,
        place=scaled_place(layer.place, by) if layer.place is not None else None,
        layers=tuple(scaled_layer(child, by, vocabulary) for child in layer.layers),
    )


def following(old: Frame | None, sheet: tuple[int, int], vocabulary: Vocabulary) -> tuple[Layer, ...]:
    """The layers over a sheet that becomes another size: they follow it, as a vignette does the crop. Raises
    DocumentError where a mask holds a picture, which is as large as the sheet was."""
    if old is None or old.sheet == sheet:
        return old.layers if old is not None else ()
    for layer in Stack(old.layers).walk():
        if layer.mask is not None and any(SOURCE in part.settings for part in layer.mask.parts):
            words = "has a region or a grey picture in its mask, as large as the sheet is now; remove that part first"
            raise DocumentError([Fault(layer.name, words)])
    by = Scale(sheet[0] / old.sheet[0], sheet[1] / old.sheet[1])
    return tuple(scaled_layer(layer, by, vocabulary) for layer in old.layers)
