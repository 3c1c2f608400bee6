"""Painting: a stroke while it is drawn, and the stroke kept when the hand lifts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.edit import edited, keep, kept_already
from glyptic.actions.looking import InHand, Looking
from glyptic.actions.tiles import pixels_of, reading
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.base.rectangles import Rect, step_of
from glyptic.brush.coverage import Trail, touched
from glyptic.document.codec import parse_stroke
from glyptic.document.edits.edit import unlocked
from glyptic.document.edits.strokes import TARGETS, with_stroke
from glyptic.document.moving import checked
from glyptic.document.values import Layer, Stack, Stroke
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels import gaussian

PATIENCE = 2.0
"""Seconds that points wait for the ones before them."""
CHIP_SIZE = 64.0
"""Diameter in pixels of the dab that tells what a full stroke would leave: wide enough for any level drawn."""


def begin(workshop: Workshop, plate_id: int, layer: str, target: str, plain: Mapping[str, Any]) -> InHand:
    """Take the brush: the stroke's head and its first points. Works on the plate's current state."""
    if target not in TARGETS:
        raise DocumentError([Fault("target", f"must be one of {', '.join(TARGETS)}")])
    current = workshop.current(plate_id)
    unlocked(current.stack, layer)
    stroke = parse_stroke(dict(plain), VOCABULARY, "stroke", even_allowed=target == "grey")
    return InHand(plate_id, layer, target, stroke, current.stack, Trail(stroke))


def extend(hand: InHand, points: list[Any]) -> None:
    """Add points to the stroke; they are checked as the stack file's are."""
    if not points:
        return
    head = {"size": 1, "hardness": 0, "opacity": 1, "flow": 1, "to": 1}
    more = parse_stroke({**head, "points": points}, VOCABULARY, "stroke", even_allowed=False).points
    hand.stroke = checked(replace(hand.stroke, points=hand.stroke.points.and_then(more)))
    hand.trail.grow(hand.stroke)


def go_on(hand: InHand, first: int, points: list[Any]) -> None:
    """Add points that follow the first `first`, in their turn; raises NotFound where those never come."""
    with hand.turn:
        if not hand.turn.wait_for(lambda: len(hand.stroke.points) >= first, PATIENCE):
            raise NotFound("The stroke is not known here; send it from its start.")
        if len(hand.stroke.points) != first:
            raise NotFound("The stroke is not known here; send it from its start.")
        extend(hand, points)
        hand.turn.notify_all()


def dirty(hand: InHand, layer: Layer, plan: Plan, looking: Looking, bounds: Rect) -> Rect:
    """The pixels of a level that points not seen yet may have changed, within what is looked at."""
    first = max(0, hand.seen - 1)
    tail = replace(hand.stroke, points=hand.stroke.points.after(first))
    frame = plan.frame if layer.id not in plan.on_sheet else None
    level = frame.level(looking.level) if frame is not None else looking.level
    area = touched(tail, level).grown(_spread(layer, hand.stroke, level))
    shown = frame.shows(area, looking.level) if frame is not None else area
    return shown.meet(looking.rect).meet(bounds)


def look(workshop: Workshop, hand: InHand, looking: Looking) -> tuple[Rect, NDArray[np.uint8]]:
    """The result under the new points: a rectangle of the level and its RGBA pixels.

    It is the true one but for what looks around itself further up, which is held still until the hand rests.
    """
    workshop.ahead.give_up()
    with hand.turn:
        layer = hand.stack.find(hand.layer)
        if layer is None:
            raise NotFound("The layer being painted on is gone.")
        before = workshop.plan(hand.stack, hand.layer)
        stack = with_stroke(hand.stack, layer, hand.target, hand.stroke)
        plan = make_plan(stack, workshop.pictures_of(stack), workshop.chains, before, hand.layer)
        plan.work_on(hand.layer)
        reader, node = reading(workshop, plan, looking, hand.trail)
        rect = dirty(hand, layer, plan, looking, reader.bounds)
        hand.seen = len(hand.stroke.points)
        if rect.empty:
            return rect, np.zeros((0, 0, 4), np.uint8)
        return rect, pixels_of(reader, node, plan, looking, rect)


def _spread(layer: Layer, stroke: Stroke, level: float) -> int:
    """How far, in pixels of a level, a stroke reaches beyond itself through its layer's own feather and evening."""
    total = stroke.even or 0.0
    if layer.mask is not None:
        total += layer.mask.feather + max((part.feather for part in layer.mask.parts), default=0.0)
    total += max((s.even or 0.0 for s in layer.strokes), default=0.0)
    return gaussian.reach(total / step_of(level)) if total else 0


def full_stroke(
    stack: Stack, layer_id: str, target: str, to: float, opacity: float, place: tuple[float, float]
) -> Stack:
    """The stack with one full dab of a brush at a place: what a full stroke there would leave."""
    layer = unlocked(stack, layer_id)
    head = {"size": CHIP_SIZE, "hardness": 1, "flow": 1, "opacity": opacity, "to": to, "points": [list(place)]}
    return with_stroke(stack, layer, target, parse_stroke(head, VOCABULARY, "stroke", even_allowed=False))


def keep_stroke(
    workshop: Workshop, plate_id: int, layer_id: str, target: str, plain: Mapping[str, Any], token: str | None = None
) -> Current:
    """Keep a whole stroke, on whatever state the plate is in by now: a stroke is never lost to another tab.

    token: what the page named it; one that was kept before is not kept again, so that it may be sent until an answer
    comes.
    """
    arguments = {"layer": layer_id, "target": target, "stroke": dict(plain)}
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        if token is None or not kept_already(workshop, plate_id, token):
            current = keep(workshop, current, edited(current.stack, "add-stroke", arguments), token)
    if token is not None:
        workshop.in_hand.drop((plate_id, token))
    return current
