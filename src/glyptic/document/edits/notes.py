"""Edits of what is noted about a picture: sets and their switches, pins, the subject, findings left as they are."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.document.edits.edit import Edit, Edited, Ids, Index, Unchecked, arguments, refuse
from glyptic.document.edits.layers import turned
from glyptic.document.notes import LEFT, LISTS, PIN, SET, SUBJECT, Notes
from glyptic.document.tree import layer_of
from glyptic.document.values import FRAME, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.document.words import WORDS
from glyptic.params import Schema, Text, Toggle, Values

GONE = {"sets": "That set", "pins": "That pin", "left": "That finding"}


def _noted(stack: Stack, **changes: Any) -> Stack:
    return replace(stack, notes=replace(stack.notes, **changes))


def _parsed(schema: Schema, raw: object, at: str) -> Values:
    faults: list[Fault] = []
    values = schema.parse(raw, at, faults)
    if values is None:
        raise DocumentError(faults)
    return values


def _one_of(notes: Notes, name: str, index: int) -> Values:
    items: tuple[Values, ...] = getattr(notes, name)
    if index >= len(items):
        raise NotFound(f"{GONE[name]} is no longer there; the page shows what is.")
    return items[index]


def _put(stack: Stack, name: str, index: int | None, value: Values) -> Stack:
    """The stack with one of a list replaced, or one more."""
    items: tuple[Values, ...] = getattr(stack.notes, name)
    most = LISTS[name][1]
    if index is None and len(items) >= most:
        raise refuse(name, f"are {most} already; remove one first")
    at = len(items) if index is None else index
    return _noted(stack, **{name: (*items[:at], value, *items[at + 1 :])})


def _without(stack: Stack, name: str, index: int) -> Stack:
    items: tuple[Values, ...] = getattr(stack.notes, name)
    return _noted(stack, **{name: items[:index] + items[index + 1 :]})


def is_on(stack: Stack, layer_id: str) -> bool:
    """Whether a layer, or the frame, is at work."""
    if layer_id == FRAME:
        return stack.frame is not None and stack.frame.enabled
    return layer_of(stack, layer_id).visible


def set_is_on(stack: Stack, one: Values) -> bool:
    """Whether any of a set's layers is at work."""
    return any(is_on(stack, layer) for layer in one["layers"])


def _keep_set(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layers = [layer for layer in args["layers"] if layer != stack.base.id]
    if not layers or not all(stack.holds(layer) for layer in layers):
        raise refuse("set", "needs one card at least that is still there, and not the base; choose cards first")
    made = _parsed(SET, {"name": args["name"], "layers": layers}, "set")
    return Edited(_put(stack, "sets", None, made), f"Set ‘{made['name']}’ kept: {_count(len(layers))}")


def _count(layers: int) -> str:
    return "1 layer" if layers == 1 else f"{layers} layers"


KEEP_SET = Edit("keep-set", arguments(name=Text(longest=60), layers=Ids()), _keep_set)
"""Keep the chosen cards under a name, to be switched together."""


def _switch_set(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    one, on = _one_of(stack.notes, "sets", args["set"]), args["on"]
    layers, off = one["layers"], one["off"]
    if not on:
        off = tuple(layer for layer in layers if not is_on(stack, layer))
    back = [layer for layer in layers if layer not in off] or list(layers)
    stack = turned(stack, back if on else layers, on)
    kept = Values({**one, "off": () if on else off})
    return Edited(_put(stack, "sets", args["set"], kept), f"Set ‘{one['name']}’ {'on' if on else 'off'}")


SWITCH_SET = Edit("switch-set", arguments(set=Index(), on=Toggle()), _switch_set)
"""All layers of a set off; or on again, but for those that were off before."""


def _rename_set(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    old = _one_of(stack.notes, "sets", args["set"])
    new = Values({**old, "name": args["name"]})
    return Edited(_put(stack, "sets", args["set"], new), f"Set ‘{old['name']}’ is now ‘{new['name']}’")


RENAME_SET = Edit("rename-set", arguments(set=Index(), name=SET.params["name"]), _rename_set)


def _remove_set(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    gone = _one_of(stack.notes, "sets", args["set"])
    return Edited(_without(stack, "sets", args["set"]), f"Set ‘{gone['name']}’ let go; its layers stay")


REMOVE_SET = Edit("remove-set", arguments(set=Index()), _remove_set)


def pin_name(one: Values, index: int) -> str:
    """What a pin is called."""
    return one["name"] or f"Pin {index + 1}"


def _put_pin(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    index, asked = args["pin"], args["value"]
    if not isinstance(asked, dict):
        raise refuse("pin", "must be an object")
    old = PIN.plain(_one_of(stack.notes, "pins", index)) if index is not None else {}
    new = _parsed(PIN, {**old, **asked}, "pin")
    at = len(stack.notes.pins) if index is None else index
    done = "set" if index is None else "moved" if set(asked) <= {"x", "y"} else "changed"
    return Edited(_put(stack, "pins", index, new), f"‘{pin_name(new, at)}’ {done}")


PUT_PIN = Edit("put-pin", arguments(pin=Index(default=None), value=Unchecked()), _put_pin)
"""A pin more (pin: null), or one changed in what is given."""


def _remove_pin(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    gone = _one_of(stack.notes, "pins", args["pin"])
    return Edited(_without(stack, "pins", args["pin"]), f"‘{pin_name(gone, args['pin'])}’ removed")


REMOVE_PIN = Edit("remove-pin", arguments(pin=Index()), _remove_pin)


def _mark_subject(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    if args["subject"] is None:
        return Edited(_noted(stack, subject=None), "Subject no longer marked")
    return Edited(_noted(stack, subject=_parsed(SUBJECT, args["subject"], "subject")), "Subject marked")


MARK_SUBJECT = Edit("mark-subject", arguments(subject=Unchecked()), _mark_subject)
"""The oval that the eye should be led to, or null for none."""


def _leave(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    made = _parsed(LEFT, dict(args), "finding")
    others = tuple(one for one in stack.notes.left if (one["check"], one["of"]) != (made["check"], made["of"]))
    kept = others[-(LISTS["left"][1] - 1) :]
    return Edited(
        _noted(stack, left=(*kept, made)), f"A finding left as it is{': ' + made['why'] if made['why'] else ''}"
    )


LEAVE = Edit("leave-finding", arguments(**LEFT.params), _leave)
"""A finding left as it is, with a word why."""


def _take_up(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    left = tuple(one for one in stack.notes.left if one["of"] != args["of"])
    if left == stack.notes.left:
        raise NotFound(f"{GONE['left']} is not left any more.")
    return Edited(_noted(stack, left=left), "A finding taken up again")


TAKE_UP = Edit("take-up-finding", arguments(of=LEFT.params["of"]), _take_up)


def _set_words(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    """Words anew, or those that came with the file."""
    if args["words"] is None:
        return Edited(_noted(stack, words=None), "Caption and rights as the file has them")
    return Edited(_noted(stack, words=_parsed(WORDS, args["words"], "words")), "Caption and rights written")


SET_WORDS = Edit("set-words", arguments(words=Unchecked(default=None)), _set_words)
