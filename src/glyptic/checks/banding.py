"""Banding: smooth areas that are left with too few levels, most of all from pictures of 8 bits."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from glyptic.base.rectangles import Rect
from glyptic.checks.check import Check, Finding, by_adding
from glyptic.checks.edges import highest_near, steps
from glyptic.checks.subject import Subject, tones
from glyptic.document.values import Stack
from glyptic.params import Real
from glyptic.pixels.compiled import Planes

MOST = 6
SMOOTH = 0.05
"""Over ten pixels of the measured level, bands smoothed out, an area changes by no more tone than this ..."""
BANDS = 5.0
NOT_FLAT = 0.0004
"""... and by no less than this: what does not change at all has no bands."""
STILL = 0.2
"""A difference of neighbours smaller than this many codes of 8 bits is none."""
RUNS = 0.6
"""Share of neighbours that do not differ, from which on what differs is a step."""
FEWEST = 3


class Banding(Check):
    """Takes patches of full size where the picture is smooth but not flat, and looks at neighbours: where most do not
    differ at all and the others by more than a code of 8 bits, the area has bands. A picture with grain has none."""

    name = "banding"
    title = "Banding"
    reason = "A smooth area with too few levels breaks into bands, in print most of all."
    rank = 60
    threshold = Real(
        label="Steps of", unit="codes", low=1.1, high=16, default=1.6, step=0.1,
        help="The height of a step, in codes of 8 bits, from which on bands are told.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        change = steps(tones(subject.finished, subject.space), 10, BANDS)
        worth = ((highest_near(change, 2) < SMOOTH) & (change > NOT_FLAT)).astype(np.float32)
        patches = subject.patches(worth, MOST, 1.0)
        heights = subject.together(partial(_height, subject, rect) for rect in patches)
        banded = [(height, rect) for height, rect in zip(heights, patches, strict=True) if height >= threshold]
        if len(banded) < min(FEWEST, len(patches)) or not banded:
            return
        worst, rect = max(banded, key=lambda one: one[0])

        def without(stack: Stack) -> float:
            return max(step_height(subject.patch(one, stack)) for _, one in banded[:FEWEST])

        blamed = subject.blamed(without, worst * 0.75)
        whose = blamed.says("stretches it", f"{blamed.left:.1f}")
        words, settings = (
            "Adds fine grain at the end, 12 %: just enough to break the bands.",
            {"amount": 0.12, "size": 1},
        )
        grain = by_adding(subject, "Strew grain", words, kind="grain", name="Grain against bands", settings=settings)
        yield Finding(
            f"Smooth areas are left with steps of {worst:.1f} codes of 8 bits ({len(banded)} of {len(patches)} places "
            f"looked at).{whose}",
            "", rect, (), worst / threshold, f"bands {worst:.0f} {blamed.mark}", (grain,),
        )  # fmt: skip


def _height(subject: Subject, rect: Rect) -> float:
    return step_height(subject.patch(rect))


def step_height(px: Planes) -> float:
    """The mean height of steps, in codes of 8 bits, of a patch that has bands; 0 of one that has none."""
    codes = px[1].astype(np.float64) * 255
    worst = 0.0
    for axis in (0, 1):
        off = np.abs(np.diff(codes, axis=axis))
        still = off < STILL
        if still.mean() >= RUNS and (~still).any():
            worst = max(worst, float(off[~still].mean()))
    return worst


CHECK = Banding()
