"""Overall: the finished picture is lighter or darker than the base by so much."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.checks.check import Check, Finding, by_adding
from glyptic.checks.subject import Subject
from glyptic.document.values import Stack
from glyptic.params import Real
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space, luminances

DARKEST = 0.0011
"""Luminance of a tone of 1 %: what is darker counts as this."""


class Overall(Check):
    """Takes the mean change of light in stops from the base to the finished picture."""

    name = "overall"
    title = "Lighter or darker overall"
    reason = "It all comes out a little dark, step by step, and the eye gets used to it."
    rank = 52
    threshold = Real(
        label="Stops", unit="stops", low=0.1, high=4, default=0.4, step=0.1,
        help="By how many stops, on the mean, the picture must have become lighter or darker.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        before = subject.before
        by = _stops(before, subject.finished, subject.space)
        if abs(by) < threshold:
            return

        def left(stack: Stack) -> float:
            return abs(_stops(before, subject.finished_of(stack), subject.space))

        blamed = subject.blamed(left, abs(by) * 0.8)
        whose = blamed.says("does most of it", f"{blamed.left:.1f}")
        words, settings = f"Adds one of {-by:+.1f} stops at the end.", {"stops": round(-by, 2)}
        last = by_adding(subject, "A last exposure", words, kind="exposure", name="Last light", settings=settings)
        way = "lighter" if by > 0 else "darker"
        yield Finding(
            f"The finished picture is {abs(by):.1f} stops {way} than the base on the mean.{whose}",
            worth=abs(by) / threshold, mark=f"{way} {abs(by):.1f}",
            mends=(last,),
        )  # fmt: skip


def _light(px: Planes, space: Space) -> np.ndarray:
    return np.asarray(np.log2(np.maximum(luminances(np.clip(px, 0, 1), space), DARKEST)))


def _stops(before: Planes, after: Planes, space: Space) -> float:
    return float((_light(after, space) - _light(before, space)).mean())


CHECK = Overall()
