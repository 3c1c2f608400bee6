"""Edits of a mask as a whole: unlink it, shift it by hand."""

from __future__ import annotations

from dataclasses import replace

from glyptic.base.homography import Homography
from glyptic.document.edits.edit import Edit, Edited, LayerId, arguments, quoted, refuse, unlocked
from glyptic.document.moving import carried_mask
from glyptic.document.tree import layer_of
from glyptic.document.values import NO_LEVELS, STRAIGHT, Layer, Mask, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Shift, Values


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


def own_copy(mask: Mask, of: Mask | None) -> Mask | None:
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
    own = own_copy(mask, other.mask)
    if own is None:
        raise refuse(
            "mask",
            f"of {quoted(layer)} cannot become one of its own: that of {quoted(other)} is changed as a whole "
            "(inverted, grown, feathered …) before this one goes on. Take that off one of the two, or keep the link",
        )
    return Edited(stack.replaced(replace(layer, mask=own)), f"Mask of {quoted(layer)} unlinked from {quoted(other)}")


UNLINK_MASK = Edit("unlink-mask", arguments(layer=LayerId()), _unlink)


def _shift(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer, mask = masked(stack, args["layer"])
    if mask.linked:
        raise refuse("mask", f"of {quoted(layer)} is linked; unlink it first, or shift the one it is linked to")
    dx, dy = args["by"]
    new = carried_mask(mask, Homography.shift(dx, dy), vocabulary)
    if new == mask and (dx or dy):
        raise refuse("mask", f"of {quoted(layer)} has no part that is drawn; there is nothing to shift")
    return Edited(stack.replaced(replace(layer, mask=new)), f"Mask of {quoted(layer)} shifted by {dx:g}, {dy:g} px")


SHIFT_MASK = Edit("shift-mask", arguments(layer=LayerId(), by=Shift(label="By")), _shift)
