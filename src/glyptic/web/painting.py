"""Painting: points go up while a stroke is drawn, changed pixels come back; the whole stroke is kept at its end."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, Response

from glyptic.actions import paint
from glyptic.base.errors import DocumentError, Fault, NotFound
from glyptic.web.context import asked_number, body, comes_first, framed, looking, text, workshop
from glyptic.web.state import answer

blueprint = Blueprint("painting", __name__, url_prefix="/plates/<int:plate_id>/strokes")


@blueprint.post("/<number>/points")
@comes_first
def points(plate_id: int, number: str) -> Response:
    """Extend the stroke in the hand: {"layer", "target", "stroke", "points", "from", "looking"}.

    `from` is how many points were sent before; a server that does not know them answers 404 and is sent all.
    The answer is a length, a JSON head with the rectangle, and its raw RGBA codes.
    """
    plain = body()
    more = plain.get("points")
    if not isinstance(more, list) or not more:
        raise DocumentError([Fault("points", "must be a list of points")])
    at = looking(plain, plate_id)
    hand = workshop().in_hand.get((plate_id, number))
    first = plain.get("from")
    if first == 0:
        head = plain.get("stroke")
        stroke = {**(head if isinstance(head, dict) else {}), "points": more}
        hand = paint.begin(workshop(), plate_id, text(plain, "layer"), text(plain, "target"), stroke)
        workshop().in_hand.put((plate_id, number), hand)
    elif hand is None or not isinstance(first, int):
        raise NotFound("The stroke is not known here; send it from its start.")
    else:
        paint.go_on(hand, first, more)
        workshop().in_hand.put((plate_id, number), hand)
    rect, pixels = paint.look(workshop(), hand, at)
    return framed({"rect": list(rect), "level": at.level}, pixels.tobytes())


@blueprint.post("/keep")
def keep(plate_id: int) -> Response:
    """Keep a whole stroke: {"number", "layer", "target", "stroke", "looking"}; one that was kept under its number
    before is not kept again."""
    plain = body()
    token = asked_number(plain)
    stroke: Any = plain.get("stroke")
    if not isinstance(stroke, dict):
        raise DocumentError([Fault("stroke", "must be an object")])
    current = paint.keep_stroke(workshop(), plate_id, text(plain, "layer"), text(plain, "target"), stroke, token)
    return answer(current, plain)
