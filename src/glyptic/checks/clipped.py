"""Newly blown and blocked: detail that the picture had and the work has lost."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.analysis.clipping import blocked, blown, newly_clipped
from glyptic.checks.check import Check, Finding, by_weakening_enough
from glyptic.checks.edges import areas
from glyptic.checks.subject import Subject
from glyptic.document.values import Stack
from glyptic.params import Real

JOINED, LEAST = 3, 4


class NewlyClipped(Check):
    """Counts the pixels of which a channel is at an end now and was not in the base; each layer is left out in turn to
    find the one without which the fewest are."""

    name = "clipped"
    title = "Newly blown or blocked"
    reason = "There is no detail to recover in what is clipped."
    rank = 50
    threshold = Real(
        label="Share", unit="%", low=0.0001, high=0.2, default=0.002, step=0.001,
        help="The share of the picture that must be newly clipped.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        before, after = subject.before, subject.finished
        share = newly_clipped(before, after)
        if share < threshold:
            return

        def without(stack: Stack) -> float:
            return newly_clipped(before, subject.finished_of(stack))

        blamed = subject.blamed(without, share * 0.9)
        new_white = blown(after).any(0) & ~blown(before).any(0)
        new_black = blocked(after).any(0) & ~blocked(before).any(0)
        marks = np.asarray(new_white | new_black)
        what = "blown" if new_white.sum() >= new_black.sum() else "blocked"
        found = sorted(areas(marks, JOINED, LEAST), key=lambda one: -one.pixels)
        size = int(subject.reader.step)
        weaker = by_weakening_enough(subject, blamed.layer, without, threshold)
        path = tuple(line for one in found[:40] for line in one.path(size))
        whose = blamed.says("does it", f"{blamed.left * 100:.1f} %")
        rect = subject.full(found[0].rect) if found else None
        mark = f"{what} {np.ceil(share * 200):.0f} {blamed.mark}"
        words = f"{share * 100:.1f} % of the picture is newly {what}.{whose}"
        yield Finding(words, "", rect, path, share / threshold, mark, weaker)


CHECK = NewlyClipped()
