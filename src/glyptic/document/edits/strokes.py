"""The edit that adds a stroke: to a grey layer, or to the paint part of a mask."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from glyptic.base.errors import Fault
from glyptic.base.homography import Homography
from glyptic.document import fields
from glyptic.document.codec import parse_stroke
from glyptic.document.edits.edit import Edit, Edited, LayerId, Unchecked, arguments, quoted, refuse, unlocked
from glyptic.document.moving import carried_stroke, checked
from glyptic.document.values import Layer, Mask, Painting, Part, Stack, Stroke
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Param, Real, Shift, Toggle, Values
from glyptic.params.declared import describe
from glyptic.params.geometry import number_list

TARGETS = ("mask", "grey")
LARGEST = fields.LARGEST_BRUSH


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
    last = parts[-1] if parts and parts[-1].kind == "paint" and parts[-1].enabled else None
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


GREY_PART = -1
"""What stands for the place of a part where a grey layer's own strokes are meant."""


@dataclass(frozen=True, kw_only=True)
class Places(Param):
    """Which strokes are meant: [[part, stroke], ...] by their places; part -1 is a grey layer's own painting."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[tuple[int, int], ...] | None:
        if not isinstance(raw, list | tuple) or not raw:
            faults.append(Fault(at, f"must be a list of strokes, not {describe(raw)}"))
            return None
        places = []
        for i, item in enumerate(raw):
            pair = number_list(item, 2, "[part, stroke]", f"{at}[{i}]", faults)
            if pair is None or any(n != int(n) or n < GREY_PART for n in pair):
                faults.append(Fault(f"{at}[{i}]", "must be [part, stroke]"))
                return None
            places.append((int(pair[0]), int(pair[1])))
        return tuple(places)


def paintings_of(layer: Layer) -> dict[int, Painting]:
    """Everything painted on a layer, by the place of its part; a grey layer's own painting by GREY_PART."""
    found = {GREY_PART: layer.strokes} if layer.kind == "grey" else {}
    if layer.mask is not None:
        found |= {i: part.strokes for i, part in enumerate(layer.mask.parts) if part.kind == "paint"}
    return found


def _with_painting(layer: Layer, part: int, strokes: Painting) -> Layer:
    if part == GREY_PART or layer.mask is None:
        return replace(layer, strokes=strokes)
    parts = list(layer.mask.parts)
    parts[part] = replace(parts[part], strokes=strokes)
    return replace(layer, mask=replace(layer.mask, parts=tuple(parts)))


def _each(layer: Layer, places: tuple[tuple[int, int], ...], change: Callable[[Stroke], Stroke | None]) -> Layer:
    """The layer with some strokes changed, or left out where the change gives None; all others stay as they are."""
    painted = paintings_of(layer)
    for part, wanted in _by_part(places).items():
        if part not in painted or max(wanted) >= len(painted[part]) or min(wanted) < 0:
            raise refuse("strokes", "are no longer there; nothing was changed")
        changed = [change(stroke) if i in wanted else stroke for i, stroke in enumerate(painted[part])]
        layer = _with_painting(layer, part, tuple(stroke for stroke in changed if stroke is not None))
    return layer


def _by_part(places: tuple[tuple[int, int], ...]) -> dict[int, set[int]]:
    found: dict[int, set[int]] = {}
    for part, index in places:
        found.setdefault(part, set()).add(index)
    return found


def _held(value: float) -> float:
    return min(max(value, 0.0), 1.0)


def _count(places: tuple[tuple[int, int], ...]) -> str:
    return "A stroke" if len(places) == 1 else f"{len(places)} strokes"


def _change_strokes(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    by = Homography.shift(*args["shift"])

    def change(stroke: Stroke) -> Stroke:
        to = stroke.to if stroke.to is None or not args["flip"] else 1 - stroke.to
        moved = carried_stroke(stroke, by) if any(args["shift"]) else stroke
        return checked(replace(
            moved, size=min(stroke.size * args["size"], LARGEST), to=to,
            hardness=_held(stroke.hardness + args["hardness"]), opacity=_held(stroke.opacity * args["strength"]),
        ))  # fmt: skip

    changed = _each(layer, args["strokes"], change)
    return Edited(stack.replaced(changed), f"{_count(args['strokes'])} on {quoted(layer)} changed")


CHANGE_STROKES = Edit(
    "change-strokes",
    arguments(
        layer=LayerId(),
        strokes=Places(),
        strength=Real(label="Strength", default=1.0, low=0, high=10, unit="%", help="Of what it was."),
        size=Real(label="Size", default=1.0, low=0.02, high=50, unit="%", help="Of what it was."),
        hardness=Real(label="Hardness", default=0.0, low=-1, high=1, unit="%", help="More or less than it was."),
        shift=Shift(label="Shift", default=(0.0, 0.0)),
        flip=Toggle(default=False),
    ),
    _change_strokes,
)


def _remove_strokes(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = unlocked(stack, args["layer"])
    changed = _each(layer, args["strokes"], lambda stroke: None)
    return Edited(stack.replaced(changed), f"{_count(args['strokes'])} removed from {quoted(layer)}")


REMOVE_STROKES = Edit("remove-strokes", arguments(layer=LayerId(), strokes=Places()), _remove_strokes)

ADD_STROKE = Edit(
    "add-stroke", arguments(layer=LayerId(), target=Choice(options=TARGETS), stroke=Unchecked()), _add_stroke
)
