"""A layer that changes some place far more than the rest of the work changes any."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from statistics import median

import numpy as np

from glyptic.adjust import KINDS
from glyptic.checks.check import Check, Finding, by_weakening
from glyptic.checks.edges import areas, mean_near
from glyptic.checks.subject import State, Subject, apart
from glyptic.params import Real
from glyptic.pixels.compiled import Plane

EVERY = 2
"""Every so manyth pixel is measured, across and down."""
SQUARE = 5
"""Side of the squares, of those, over which a change is averaged: a change of a place, not of grains."""
HIGH = 98
"""Percentile, of where a layer changes anything, that counts as its change."""
LEAST_DE = 6.0
"""A layer that changes no place by so much in CIEDE2000 is not heavy, whatever the others do."""
FEWEST_OTHERS = 2
JOINED, LEAST = 3, 6


class TooHeavy(Check):
    """Takes each layer's change in CIEDE2000, averaged over small squares, at the 98th percentile of where it changes
    anything, and compares it with the median of the other layers'."""

    name = "heavy"
    title = "Too heavy"
    reason = "Most corrections are overdone while they are made: less is more, and one that stands out is seen first."
    rank = 10
    threshold = Real(
        label="Times the rest", low=1.5, high=20, default=3.0, step=0.5,
        help="How many times the change of the other layers a layer's own must be to be told.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        states = [state for state in subject.at_work() if not _covers(state)]
        given = subject.together(partial(_amount, state) for state in states)
        amounts = {state.layer.id: amount for state, amount in zip(states, given, strict=True)}
        heights = {layer: _height(amount) for layer, amount in amounts.items()}
        for state in states:
            layer = state.layer
            rest = [height for other, height in heights.items() if other != layer.id]
            if len(rest) < FEWEST_OTHERS:
                return
            height, usual = heights[layer.id], max(median(rest), 0.5)
            if height < LEAST_DE or height < threshold * usual:
                continue
            marks = amounts[layer.id] >= height * 0.9
            area = max(areas(marks, JOINED, LEAST), key=lambda one: one.pixels, default=None)
            size = EVERY * int(subject.reader_of(layer.id).step)
            weaker = by_weakening(layer, round(layer.opacity * threshold * usual / height, 2), ": as strong as may be")
            yield Finding(
                f"‘{layer.name}’ changes its place by ΔE {height:.1f}, {height / usual:.1f} times what the other "
                f"layers do ({usual:.1f}).",
                layer.id, area.rect.scaled(size) if area else None, area.path(size) if area else (),
                height / (threshold * usual), "heavy",
                (weaker,),
            )  # fmt: skip


def _amount(state: State) -> Plane:
    """CIEDE2000 of what a layer changes, over small squares."""
    below, above = (px[:, ::EVERY, ::EVERY] for px in (state.below, state.above))
    return mean_near(apart(below, above, state.space), SQUARE)


def _covers(state: State) -> bool:
    """Whether a layer brings a picture or a colour of its own rather than changing what is there."""
    kind = KINDS[state.layer.kind]
    return kind.covers or kind.carries == "picture"


def _height(amount: np.ndarray) -> float:
    somewhere = amount[amount > 0.2]
    return float(np.percentile(somewhere, HIGH)) if somewhere.size else 0.0


CHECK = TooHeavy()
