"""What layers carry, moved to another place or scaled to a picture of another size, as their declarations say."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glyptic.base.errors import DocumentError
from glyptic.base.homography import Homography
from glyptic.document import fields
from glyptic.document.reach import faults_of
from glyptic.document.values import Mask, Part, Stroke, StrokePoints
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


def carried_mask(mask: Mask, by: Homography, vocabulary: Vocabulary) -> Mask:
    """A mask whose drawn parts lie elsewhere, and whose lengths grow as they do."""
    head = fields.MASK_HEAD.params
    lengths: dict[str, Any] = {n: p.carried(getattr(mask, n), by) for n, p in head.items() if isinstance(p, Length)}
    parts = tuple(carried_part(part, by, vocabulary) for part in mask.parts)
    return replace(mask, parts=parts, **lengths)
