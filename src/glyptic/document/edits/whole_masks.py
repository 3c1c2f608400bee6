"""Edits of a mask as a whole: unlink it, shift it by hand."""

from __future__ import annotations

from dataclasses import replace

from glyptic.document.edits.edit import Edit, Edited, LayerId, Numbers, arguments, quoted, refuse, unlocked
from glyptic.document.tree import layer_of
from glyptic.document.values import NO_LEVELS, STRAIGHT, Layer, Mask, Part, Stack, Stroke
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Point, Polygon, Values


def masked(stack: Stack, layer_id: str) -> tuple[Layer, Mask]:
    """A layer that may be changed and its mask; raises DocumentError where there is none."""
    layer = unlocked(stack, layer_id)
    if layer.mask is None:
        raise refuse("mask", f"{quoted(layer)} has no mask")
    return layer, layer.mask


def _plain(mask: Mask) -> bool:
    """Whether a mask is what its parts make of it and no more."""
    neutral = mask.levels == NO_LEVELS and mask.curve == STRAIGHT and mask.density == 1
    return neutral and not (mask.invert or mask.grow or mask.feather) and mask.enabled


def _own_copy(mask: Mask, of: Mask | None) -> Mask | None:
    """A linked mask as one of its own that shows the same, or None where there is no such."""
    if of is None or not of.enabled:
        return replace(mask, linked="", start="open")
    if of.linked:
        return None if not _plain(of) else replace(mask, linked=of.linked, parts=(*of.parts, *mask.parts))
    if _plain(of):
        return replace(mask, linked="", start=of.start, parts=(*of.parts, *mask.parts))
    return replace(of, along=mask.along) if not mask.parts and _plain(mask) else None


def _unlink(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, mask = masked(stack, args["layer"])
    if not mask.linked:
        raise refuse("mask", f"of {quoted(layer)} is not linked")
    other = layer_of(stack, mask.linked)
    own = _own_copy(mask, other.mask)
    if own is None:
        raise refuse(
            "mask",
            f"of {quoted(layer)} cannot become one of its own: that of {quoted(other)} is changed as a whole "
            "(inverted, grown, feathered …) before this one goes on. Take that off one of the two, or keep the link",
        )
    return Edited(stack.replaced(replace(layer, mask=own)), f"Mask of {quoted(layer)} unlinked from {quoted(other)}")


UNLINK_MASK = Edit("unlink-mask", arguments(layer=LayerId()), _unlink)


def _shifted_stroke(stroke: Stroke, dx: float, dy: float) -> Stroke:
    return replace(stroke, points=stroke.points.shifted(dx, dy))


def _shifted_part(part: Part, dx: float, dy: float, vocabulary: Vocabulary) -> Part:
    """A part drawn elsewhere. What looks at the picture stays: it covers what is there."""
    if part.strokes:
        return replace(part, strokes=tuple(_shifted_stroke(stroke, dx, dy) for stroke in part.strokes))
    params = vocabulary.parts[part.kind].schema.params
    changed = dict(part.settings)
    for name, param in params.items():
        value = part.settings[name]
        if isinstance(param, Point) and not param.positive:
            changed[name] = (value[0] + dx, value[1] + dy)
        elif isinstance(param, Polygon):
            changed[name] = tuple((x + dx, y + dy) for x, y in value)
    return replace(part, settings=Values(changed)) if changed != dict(part.settings) else part


def shifted(mask: Mask, dx: float, dy: float, vocabulary: Vocabulary) -> Mask:
    """A mask whose drawn parts lie elsewhere."""
    return replace(mask, parts=tuple(_shifted_part(part, dx, dy, vocabulary) for part in mask.parts))


def _shift(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, mask = masked(stack, args["layer"])
    if mask.linked:
        raise refuse("mask", f"of {quoted(layer)} is linked; unlink it first, or shift the one it is linked to")
    dx, dy = args["by"]
    new = shifted(mask, dx, dy, vocabulary)
    if new == mask and (dx or dy):
        raise refuse("mask", f"of {quoted(layer)} has no part that is drawn; there is nothing to shift")
    return Edited(stack.replaced(replace(layer, mask=new)), f"Mask of {quoted(layer)} shifted by {dx:g}, {dy:g} px")


SHIFT_MASK = Edit("shift-mask", arguments(layer=LayerId(), by=Numbers(count=2)), _shift)
