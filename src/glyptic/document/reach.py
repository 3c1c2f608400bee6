"""How far a stroke reaches and how much there is to draw of it: what is bounded so that it can be drawn at all."""

from __future__ import annotations

from math import hypot
from operator import sub

from glyptic.base.errors import Fault
from glyptic.document.fields import MOST_DABS, MOST_POINTS
from glyptic.document.values import Stroke
from glyptic.params.geometry import too_far

LEAST_STEP = 0.5
"""Pixels from a dab to the next, at least (computation.md, Stroke)."""


def length_of(stroke: Stroke) -> float:
    """The length of a stroke's path in pixels."""
    flat, columns = stroke.points.flat, stroke.points.columns
    xs, ys = flat[0::columns], flat[1::columns]
    return sum(map(hypot, map(sub, xs[1:], xs), map(sub, ys[1:], ys)))


def most_dabs(stroke: Stroke) -> float:
    """No fewer dabs than a stroke has. Where the pen drives its size they may lie as close as can be."""
    drives_size = any(by.size for by in (stroke.pressure, stroke.tilt, stroke.speed))
    between = max(stroke.spacing * (1.0 if drives_size else stroke.size), LEAST_STEP)
    return 1 + length_of(stroke) / between


def faults_of(stroke: Stroke, at: str) -> list[Fault]:
    """What is beyond bounds in a stroke: its places, its points, its dabs."""
    left, top, right, bottom = stroke.bounds
    wrong = next(filter(None, map(too_far, (left, top, right, bottom))), "")
    if wrong:
        return [Fault(f"{at}.points", wrong)]
    if len(stroke.points) > MOST_POINTS:
        return [Fault(f"{at}.points", f"must hold at most {MOST_POINTS:,} points; lift the hand and go on")]
    if most_dabs(stroke) > MOST_DABS:
        return [Fault(f"{at}.points", f"must take at most {MOST_DABS:,} dabs; lift the hand and go on")]
    return []
