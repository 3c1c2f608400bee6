"""Pins: spots of the picture whose numbers stay in sight, as it comes out and as it was."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from glyptic.actions.tiles import rgba
from glyptic.actions.workshop import Workshop
from glyptic.analysis.casts import cast_in_words, lean_of
from glyptic.base.rectangles import square_around
from glyptic.document.framing import comes_out_at
from glyptic.document.values import Stack
from glyptic.engine.states import colour
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space, tone


@dataclass(frozen=True)
class Reading:
    """What a pin reads: tone 0..1 and 8-bit codes, now and before; the cast of a neutral one in words, else ''."""

    tone: float
    tone_before: float
    codes: tuple[int, ...]
    codes_before: tuple[int, ...]
    cast: str = ""
    cast_before: str = ""


def read_pins(workshop: Workshop, stack: Stack) -> list[Reading | None]:
    """What each pin reads at full size; None for one that lies outside what comes out."""
    if not stack.notes.pins:
        return []
    plan = workshop.plan(stack)
    reader = plan.reader(workshop.tiles, 0)
    found: list[Reading | None] = []
    for pin in stack.notes.pins:
        place = square_around(*comes_out_at(stack.frame, pin["x"], pin["y"]), int(pin["over"])).meet(reader.bounds)
        if place.empty:
            found.append(None)
            continue
        found.append(
            _reading(
                colour(reader, plan.before, place), colour(reader, plan.finished, place), pin["neutral"], plan.space
            )
        )
    return found


def _reading(before: Planes, now: Planes, neutral: bool, space: Space) -> Reading:
    """The numbers of the means of a spot."""
    was, is_ = (np.clip(px, 0, 1).mean((1, 2), keepdims=True).astype(np.float32) for px in (before, now))
    codes = [tuple(int(v) for v in rgba(px)[0, 0, :3]) for px in (is_, was)]
    casts = [cast_in_words(*lean_of(px, space)) if neutral else "" for px in (is_, was)]
    now_t, was_t = (float(tone(px, space)[0, 0]) for px in (is_, was))
    return Reading(now_t, was_t, codes[0], codes[1], casts[0], casts[1])
