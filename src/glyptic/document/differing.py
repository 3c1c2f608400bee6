"""How one state of a document differs from another, in words."""

from __future__ import annotations

from dataclasses import replace

from glyptic.base.errors import DocumentError
from glyptic.document.scaling import following
from glyptic.document.values import Layer, Stack
from glyptic.document.vocabulary import Vocabulary

MOST_NAMED = 3


def _named(verb: str, layers: list[Layer]) -> str:
    names = ", ".join(f"‘{layer.name}’" for layer in layers[:MOST_NAMED])
    more = f" and {len(layers) - MOST_NAMED} more" if len(layers) > MOST_NAMED else ""
    return f"{names}{more} {verb}"


def _own(layer: Layer) -> Layer:
    """The layer without what is in it."""
    return replace(layer, layers=())


def differences(one: Stack, other: Stack) -> list[str]:
    """What the other state has that this one has not, lacks, and has otherwise; empty where they are the same."""
    here, there = ({(layer.id, layer.kind): layer for layer in stack.walk()} for stack in (one, other))
    added = [layer for name, layer in there.items() if name not in here]
    gone = [layer for name, layer in here.items() if name not in there]
    changed = [layer for name, layer in there.items() if name in here and _own(layer) != _own(here[name])]
    found = [_named(verb, layers) for verb, layers in
             (("added", added), ("removed", gone), ("changed", changed)) if layers]  # fmt: skip
    if [name for name in here if name in there] != [name for name in there if name in here]:
        found.append("another order")
    if (one.frame and one.frame.settings) != (other.frame and other.frame.settings):
        found.append("another frame" if one.frame and other.frame else "a frame" if other.frame else "no frame")
    return found


def through_frame_of(present: Stack, other: Stack, vocabulary: Vocabulary) -> Stack:
    """Another state as the present frame shows it, so that both show the same place of the picture: what lies over its
    sheet follows the present one's size."""
    frame, its = present.frame, other.frame
    if frame is None or (its is not None and its.settings == frame.settings):
        return other if frame is not None or its is None else replace(other, frame=None)
    try:
        over = following(its, frame.sheet, vocabulary)
    except DocumentError:  # what cannot follow is left out of the comparison
        over = ()
    return replace(other, frame=replace(frame, layers=over))
