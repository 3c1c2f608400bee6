"""Edits of what colours mean: the plate's working space, and how a picture's file is read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from glyptic.base.errors import Fault
from glyptic.document.edits.edit import Edit, Edited, LayerId, Unchecked, arguments, quoted, refuse, unlocked
from glyptic.document.reading import READING, changed
from glyptic.document.recolouring import recoloured
from glyptic.document.tree import layer_of
from glyptic.document.values import WORKING_SPACES, Layer, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import Choice, Values

MOST_NAMED = 4


def _channelwise(stack: Stack, vocabulary: Vocabulary) -> Iterator[Layer]:
    """The layers that work on red, green and blue as they are: they do a little otherwise in another space."""
    for layer in stack.walk():
        if layer is not stack.base and layer.visible:
            by_kind = vocabulary.kinds[layer.kind].works_on_channels(layer.settings)
            if by_kind or layer.blend not in ("normal", "luminosity"):
                yield layer


def _kept_meaning(stack: Stack) -> Stack:
    """The stack with what its pictures' values mean written down, where only the working space said so: they are to
    look as before in another one."""

    def row(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
        return tuple(_as_before(layer, stack.working_space) for layer in layers)

    return stack.with_rows(row)


def _as_before(layer: Layer, space: str) -> Layer:
    inner = tuple(_as_before(child, space) for child in layer.layers)
    if not layer.source or (layer.reading is not None and layer.reading["assumed"]):
        return replace(layer, layers=inner)
    return replace(layer, reading=changed(layer.reading, assumed=space), layers=inner)


def _set_space(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    old, new = stack.working_space, args["space"]
    title = vocabulary.spaces[new].title
    if old == new:
        raise refuse("space", f"is {title} already; nothing was changed")
    outside = 0

    def by(colour: tuple[float, ...]) -> tuple[float, ...]:
        nonlocal outside
        found = vocabulary.carried(colour, old, new)
        held = tuple(min(max(value, 0.0), 1.0) for value in found)
        outside += any(abs(a - b) > 1 / 255 for a, b in zip(found, held, strict=True))
        return tuple(round(value, 6) for value in held)

    made = replace(recoloured(_kept_meaning(stack), by, vocabulary), working_space=new)
    return Edited(made, f"Working space {title}{_said(stack, outside, vocabulary)}")


def _said(stack: Stack, outside: int, vocabulary: Vocabulary) -> str:
    """What is not exactly as before."""
    layers = list(_channelwise(stack, vocabulary))
    named = ", ".join(quoted(layer) for layer in layers[:MOST_NAMED])
    more = f" and {len(layers) - MOST_NAMED} more" if len(layers) > MOST_NAMED else ""
    words = (
        f": {named}{more} work on red, green and blue as they are there, and look a little different" if layers else ""
    )
    lost = (
        f"; {outside} colour{'s' if outside > 1 else ''} of settings lie outside it and were brought in"
        if outside
        else ""
    )
    mixed = any(
        layer.visible and (layer.opacity < 1 or layer.mask is not None)
        for layer in stack.walk()
        if layer is not stack.base
    )
    partly = "; what lies over in part is mixed in the new values, a little otherwise" if mixed else ""
    return words + partly + lost


SET_SPACE = Edit("set-space", arguments(space=Choice(label="Working space", options=WORKING_SPACES)), _set_space)


def _set_reading(stack: Stack, args: Values, vocabulary: Vocabulary) -> Edited:
    layer = layer_of(stack, args["layer"]) if args["layer"] == stack.base.id else unlocked(stack, args["layer"])
    if not layer.source:
        raise refuse("layer", "has no picture that is read from a file")
    faults: list[Fault] = []
    values = READING.parse(args["reading"], "reading", faults)
    if values is None:
        raise refuse(faults[0].field, faults[0].message)
    reading = changed(values)
    if reading == layer.reading:
        raise refuse("reading", "is as before; nothing was changed")
    what = _differing(layer.reading or READING.defaults, values)
    new = replace(layer, reading=reading)
    if layer is stack.base:
        return Edited(
            stack.with_rows(lambda row: tuple(new if one is layer else one for one in row)), f"{what} of the base"
        )
    return Edited(stack.replaced(new), f"{what} of {quoted(layer)}")


def _differing(old: Values, new: Values) -> str:
    """What of a reading is otherwise, by its names."""
    names = [param.label for name, param in READING.params.items() if old[name] != new[name]]
    return " and ".join(names) or "Reading"


SET_READING = Edit("set-reading", arguments(layer=LayerId(), reading=Unchecked()), _set_reading)
