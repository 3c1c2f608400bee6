"""The edit that adds a stroke: to a grey layer, or to the paint part of a mask."""

from __future__ import annotations

from dataclasses import replace

from glyptic.document.codec import parse_stroke
from glyptic.document.edits.edit import Edit, Edited, LayerId, Unchecked, arguments, quoted, refuse, unlocked
from glyptic.document.values import Layer, Mask, Part, Stack, Stroke
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Values

TARGETS = ("mask", "grey")


def with_stroke(stack: Stack, layer: Layer, target: str, stroke: Stroke) -> Stack:
    """The stack with one stroke more on a layer's painting or on its mask's last part, if that is painted.

    A mask without one gets a paint part at its end; a layer without a mask gets one that starts open when the
    stroke hides and closed when it shows.
    """
    if target == "grey":
        if layer.kind != "grey":
            raise refuse("target", f"{quoted(layer)} is no grey layer")
        return stack.replaced(replace(layer, strokes=(*layer.strokes, stroke)))
    if layer.id == stack.base.id:
        raise refuse("target", "the base picture cannot be painted on; add a layer first")
    if stroke.even is not None:
        raise refuse("stroke.even", "only a grey layer's strokes can even out")
    mask = layer.mask or Mask(start="open" if stroke.to == 0 else "closed")
    parts = mask.parts
    last = parts[-1] if parts and parts[-1].kind == "paint" else None
    painted = Part("paint", strokes=(*(last.strokes if last else ()), stroke))
    parts = (*(parts[:-1] if last else parts), painted)
    return stack.replaced(replace(layer, mask=replace(mask, parts=parts)))


def words(target: str, stroke: Stroke) -> str:
    """What a stroke does, in one word."""
    if stroke.even is not None:
        return "Evened out"
    if target == "grey":
        return "Lightened" if (stroke.to or 0) > 0.5 else "Darkened" if stroke.to != 0.5 else "Made neutral"
    return "Shown" if (stroke.to or 0) >= 0.5 else "Hidden"


def _add_stroke(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    target = args["target"]
    stroke = parse_stroke(args["stroke"], vocabulary, "stroke", even_allowed=target == "grey")
    painted = with_stroke(stack, layer, target, stroke)
    place = f"the mask of {quoted(layer)}" if target == "mask" else quoted(layer)
    share = f"{stroke.opacity * 100:.0f} %"
    return Edited(painted, f"{words(target, stroke)} by a stroke of {share} on {place}")


ADD_STROKE = Edit(
    "add-stroke", arguments(layer=LayerId(), target=Choice(options=TARGETS), stroke=Unchecked()), _add_stroke
)
