"""Casts: pinned neutrals, or what was nearly neutral, that moved."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from glyptic.adjust.white_balance import light_of
from glyptic.analysis.casts import cast_in_words, lean_of
from glyptic.analysis.difference import lab
from glyptic.base.rectangles import Rect, square_around
from glyptic.checks.check import Check, Finding, Mend, by_adding
from glyptic.checks.subject import Subject
from glyptic.document.framing import comes_out_at
from glyptic.document.values import Stack
from glyptic.params import Real
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space
from glyptic.pixels.transfer import encoded, linear

NEAR = 4.0
"""Chroma in CIE a*, b* up to which a colour counts as nearly neutral."""
DARKEST, LIGHTEST = 20.0, 92.0
"""L* between which a cast is seen."""
AROUND_PIN = 40
LEAST_SHARE = 0.02
"""Share of the picture that must be nearly neutral for it to be judged by that."""


class Cast(Check):
    """Takes the pixels that were nearly neutral in the base (CIE chroma below 4, L* from 20 to 92) and how far, on the
    mean, they have moved in a* and b*; and so for every pin that should be neutral. What is nearer to grey than it was
    is no fault. Each layer is left out in turn to find the one that moves them."""

    name = "cast"
    title = "Cast"
    reason = "A grey that is no longer grey is seen before anything else is."
    rank = 55
    threshold = Real(
        label="Moved by", low=0.5, high=20, default=2.5, step=0.5,
        help="How far in CIE a*, b* the mean of the neutrals must have moved.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        yield from _pinned(subject, threshold)
        before = subject.before
        near = _neutrals(before, subject.space)
        if near.mean() < LEAST_SHARE:
            return
        was = _mean_lean(before, near, subject.space)

        def moved(px: Planes) -> float:
            return float(np.hypot(*(_mean_lean(px, near, subject.space) - was)))

        far = moved(subject.finished)
        now = _mean_lean(subject.finished, near, subject.space)
        if far < threshold or _is_nearer(now, was):
            return
        blamed = subject.blamed(lambda stack: moved(subject.finished_of(stack)), far * 0.8)
        whose = blamed.says("does most of it", f"{blamed.left:.1f}")
        yield Finding(
            f"What was nearly neutral ({near.mean() * 100:.0f} % of the picture) has moved by {far:.1f}: now "
            f"{cast_in_words(*now)}, before {cast_in_words(*was)}.{whose}",
            worth=far / threshold, mark=f"{far / threshold:.0f} {blamed.mark}", mends=(_balanced(subject, near),),
        )  # fmt: skip


def _neutrals(px: Planes, space: Space) -> np.ndarray:
    light, a, b = lab(px, space)
    return np.asarray((np.hypot(a, b) < NEAR) & (light > DARKEST) & (light < LIGHTEST))


def _mean_lean(px: Planes, where: np.ndarray, space: Space) -> np.ndarray:
    return np.asarray(lab(px[:, where], space)[1:].mean(1))


def _pinned(subject: Subject, threshold: float) -> Iterator[Finding]:
    """Neutral pins that moved, or were never neutral and are not now."""
    for i, pin in enumerate(subject.stack.notes.pins):
        if not pin["neutral"]:
            continue
        place = square_around(*comes_out_at(subject.stack.frame, pin["x"], pin["y"]), int(pin["over"]))
        place = place.meet(subject.plan.outer.at(0))
        if place.empty:
            continue
        spots = subject.patch_before(place), subject.patch(place)
        was, now = (np.array(lean_of(px, subject.space)) for px in spots)
        far = float(np.hypot(*(now - was)))
        if far < threshold or _is_nearer(now, was):
            continue
        blamed = subject.blamed(partial(_moved_at, subject, place, was), far * 0.8)
        whose = blamed.says("does most of it", f"{blamed.left:.1f}")
        name = pin["name"] or f"Pin {i + 1}"
        yield Finding(
            f"‘{name}’, which should be neutral, has moved by {far:.1f}: now {cast_in_words(*now)}, before "
            f"{cast_in_words(*was)}.{whose}",
            rect=place.grown(AROUND_PIN), worth=far / threshold, mark=f"{i} {far / threshold:.0f} {blamed.mark}",
        )  # fmt: skip


def _is_nearer(now: np.ndarray, was: np.ndarray) -> bool:
    """Whether a colour is nearer to grey than it was: that is no fault."""
    return float(np.hypot(*now)) <= float(np.hypot(*was))


def _moved_at(subject: Subject, place: Rect, was: np.ndarray, stack: Stack) -> float:
    return float(np.hypot(*(np.array(lean_of(subject.patch(place, stack), subject.space)) - was)))


def _balanced(subject: Subject, near: np.ndarray) -> Mend:
    """A last white balance that takes the mean of the neutrals back to grey."""
    red, green, blue = (float(v) for v in encoded(linear(subject.finished[:, near]).mean(1)))
    temperature, tint = light_of(red, green, blue, subject.space)
    words = f"Adds a white balance at the end: {temperature:.0f} K, tint {tint * 100:.0f} %."
    settings = {"temperature": temperature, "tint": tint}
    return by_adding(subject, "Take it out", words, kind="white-balance", name="Cast taken out", settings=settings)


CHECK = Cast()
