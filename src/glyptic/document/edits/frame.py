"""Edits of the frame: set, changed in part, switched, removed."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glyptic.base.errors import NotFound
from glyptic.document import fields
from glyptic.document.codec import parse_frame
from glyptic.document.edits.edit import Edit, Edited, Unchecked, arguments, refuse, set_in
from glyptic.document.framing import Crop, nearest_right_angle
from glyptic.document.scaling import following
from glyptic.document.values import FRAME, Frame, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Real, Values

A_TURN = 0.005
"""Degrees below which a crop does not count as turned."""


def frame_of(stack: Stack) -> Frame:
    """The frame of a stack; raises NotFound where it has none."""
    if stack.frame is None:
        raise NotFound("The picture has no frame any more; the page shows what is.")
    return stack.frame


def _turned(old: Crop, new: Crop) -> str:
    by = nearest_right_angle(new.turn - old.turn)
    if abs(by) >= A_TURN:
        return f"turned by {by:.2f}".rstrip("0").rstrip(".") + "°"
    if abs((new.turn - old.turn + 180) % 360 - 180) > 1:
        return "turned by quarters, or mirrored"
    return ""


def _sides(border: Values) -> str:
    return ", ".join(f"{border[side]:g}" for side in ("left", "top", "right", "bottom")) + " px"


def _changes(old: Frame, new: Frame) -> list[str]:
    words = [_turned(Crop(old.corners, old.size), Crop(new.corners, new.size))]
    if new.size != old.size:
        words.append(f"cropped to {new.size[0]} × {new.size[1]}")
    elif new.corners != old.corners and not words[0]:
        words.append("laid anew")
    border, before = new.settings["border"], old.settings["border"]
    if border != before:
        words.append("border gone" if border is None else f"border {_sides(border)}")
    if new.settings["outside"] != old.settings["outside"]:
        words.append("another colour outside")
    if new.enabled != old.enabled:
        words.append("on" if new.enabled else "off")
    return [word for word in words if word]


def in_words(old: Frame | None, new: Frame) -> str:
    """What became of a frame, as the log writes it."""
    if old is None:
        return f"Frame: {new.size[0]} × {new.size[1]}"
    return f"Frame {', '.join(_changes(old, new)) or 'changed'}"


def with_frame(stack: Stack, plain: dict[str, Any], vocabulary: Vocabulary) -> Edited:
    """The stack with a frame of these plain settings; what lies over the sheet follows its size."""
    parsed = parse_frame({**plain, "layers": []}, vocabulary, "frame")
    new = replace(parsed, layers=following(stack.frame, parsed.sheet, vocabulary))
    return Edited(replace(stack, frame=new), in_words(stack.frame, new), FRAME)


def _set_frame(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    asked = args["frame"]
    if asked is None:
        return removed(stack)
    if not isinstance(asked, dict):
        raise refuse("frame", "must be an object of settings")
    before = fields.FRAME.plain(stack.frame.settings) if stack.frame is not None else {}
    return with_frame(stack, {**before, **asked}, vocabulary)


SET_FRAME = Edit("set-frame", arguments(frame=Unchecked()), _set_frame)
"""frame: the settings to change, or null to remove it."""


def _border(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    frame = frame_of(stack)
    shorter = min(frame.size)
    pixels = round(args["amount"] * shorter / 100 if args["unit"] == "%" else args["amount"])
    sides = dict.fromkeys(("left", "top", "right"), pixels) | {"bottom": round(pixels * args["below"])}
    before = fields.BORDER.plain(frame.settings["border"] or fields.BORDER.defaults)
    plain = fields.FRAME.plain(frame.settings)
    plain["border"] = {**before, **sides} if pixels else None
    return with_frame(stack, plain, vocabulary)


BORDER = Edit(
    "border",
    arguments(
        amount=Real(label="Border", low=0, high=fields.WIDEST_BORDER),
        unit=Choice(label="Unit", options=("px", "%"), default="px"),
        below=Real(label="Below", low=0, high=10, default=1.0),
    ),
    _border,
)
"""A border on all sides: amount in pixels or per cent of the crop's shorter side; below: how many times that there."""


def removed(stack: Stack) -> Edited:
    """The stack without its frame and what lay over the sheet."""
    over = len(frame_of(stack).layers)
    what = f" and the {over} layers over it" if over > 1 else " and the layer over it" if over else ""
    return Edited(replace(stack, frame=None), f"Frame{what} removed", stack.layers[-1].id)


def set_field(stack: Stack, field: str, raw: object, vocabulary: Vocabulary) -> Edited:
    """One field of the frame set, as those of layers are."""
    plain = fields.FRAME.plain(frame_of(stack).settings)
    path = ["enabled"] if field == "visible" else field.split(".")
    if path[0] not in fields.FRAME.params:
        raise refuse(field[:60], "cannot be set on the frame")
    return with_frame(stack, set_in(plain, path, raw), vocabulary)


def switched(stack: Stack, on: bool) -> Stack:
    """The stack with its frame on or off."""
    frame = frame_of(stack)
    return replace(stack, frame=replace(frame, settings=Values({**frame.settings, "enabled": on})))
