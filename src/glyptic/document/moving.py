"""What layers carry, moved to another place or scaled to a picture of another size, as their declarations say."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography
from glyptic.document import fields
from glyptic.document.reach import faults_of
from glyptic.document.sources import SOURCE
from glyptic.document.values import Layer, Mask, Part, Place, Stroke, StrokePoints
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Length
from glyptic.params.moving import likeness


def carried_stroke(stroke: Stroke, by: Homography) -> Stroke:
    """A stroke where the plane is carried by a homography: exact where that is a similarity."""
    points = StrokePoints.of((*by.at(x, y), *rest) for x, y, *rest in stroke.points)
    if by.is_shift:
        moved = replace(stroke, points=points)
    else:
        grows = likeness(by, "stroke")
        even = None if stroke.even is None else stroke.even * grows
        moved = replace(stroke, points=points, size=stroke.size * grows, even=even)
    return checked(moved)


def checked(stroke: Stroke) -> Stroke:
    """The stroke, if it is still one that may be kept; raises DocumentError."""
    wrong = faults_of(stroke, "stroke")
    if wrong:
        raise DocumentError(wrong)
    return stroke


def carried_part(part: Part, by: Homography, vocabulary: Vocabulary) -> Part:
    """A part drawn elsewhere. What looks at the picture stays: it covers what is there."""
    if part.strokes:
        return replace(part, strokes=tuple(carried_stroke(stroke, by) for stroke in part.strokes))
    schema = vocabulary.parts[part.kind].schema
    settings = schema.carried(part.settings, by)
    if settings == part.settings:
        return part
    feather = fields.PART_HEAD.params["feather"].carried(part.feather, by)
    return replace(part, settings=schema.checked(settings, part.kind), feather=feather)


def carried_place(place: Place | None, by: Homography) -> Place:
    """Where a picture lies when the plane is carried: exact by its corners always, else where that is a similarity."""
    if place is None:
        raise DocumentError(
            [Fault("the picture", "lies where it fits by itself; move it once, so that it has a place")]
        )
    if place.corners is not None:
        a, b, c, d = (by.at(*corner) for corner in place.corners)
        return Place(corners=(a, b, c, d))
    if by.is_mirrored:
        raise DocumentError([Fault("the picture", "would have to be mirrored; place it by its corners first")])
    x, y = by.at(place.x, place.y)
    return Place(x, y, place.scale * likeness(by, "the picture's place"), (place.rotation + by.turn + 180) % 360 - 180)


def carried_layer(layer: Layer, by: Homography, vocabulary: Vocabulary) -> Layer:
    """A layer and what is in it, where the plane is carried by a homography; raises DocumentError where something of
    it cannot be carried exactly."""
    schema = vocabulary.kinds[layer.kind].schema
    mask = layer.mask
    if mask is not None and any(SOURCE in part.settings for part in mask.parts):
        raise DocumentError([Fault("its mask", "holds a picture of the size of what it lies on")])
    return replace(
        layer,
        settings=schema.checked(schema.carried(layer.settings, by), layer.kind) if layer.settings else layer.settings,
        strokes=tuple(carried_stroke(stroke, by) for stroke in layer.strokes),
        mask=carried_mask(mask, by, vocabulary) if mask is not None else None,
        place=carried_place(layer.place, by) if layer.source else None,
        layers=tuple(carried_layer(child, by, vocabulary) for child in layer.layers),
    )


def carried_mask(mask: Mask, by: Homography, vocabulary: Vocabulary) -> Mask:
    """A mask whose drawn parts lie elsewhere, and whose lengths grow as they do."""
    head = fields.MASK_HEAD.params
    lengths: dict[str, Any] = {n: p.carried(getattr(mask, n), by) for n, p in head.items() if isinstance(p, Length)}
    parts = tuple(carried_part(part, by, vocabulary) for part in mask.parts)
    return replace(mask, parts=parts, **lengths)
