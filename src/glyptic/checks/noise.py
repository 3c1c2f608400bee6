"""Noise brought up: dark areas whose noise was raised beyond what is not seen."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from glyptic.base.rectangles import Rect
from glyptic.checks.check import Check, Finding, by_weakening_enough
from glyptic.checks.edges import highest_near, mean_near, steps
from glyptic.checks.subject import Subject, tones
from glyptic.document.values import Stack
from glyptic.params import Real
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space

MOST = 6
DARK = 0.35
"""Tone up to which the base counts as dark."""
SMOOTH = 0.02
RAISED = 1.4
"""Noise must have become so many times what it was."""
TO_DEVIATION = 1.4826 / np.sqrt(20)
"""From the median size of the Laplacian 4, −1, −1, −1, −1 to a standard deviation."""


class NoiseBroughtUp(Check):
    """Takes patches of full size where the base is dark and smooth, and measures their noise in tone, before and after,
    by the median of a Laplacian, which edges do not move (after J. Immerkaer 1996)."""

    name = "noise"
    title = "Noise brought up"
    reason = "Lifting the darks lifts their noise, and it is seen first where the picture is smooth."
    rank = 62
    threshold = Real(
        label="Noise", unit="%", low=0.002, high=0.1, default=0.012, step=0.001,
        help="Standard deviation of tone from which on noise is seen at full size.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        before = tones(subject.before, subject.space)
        smooth = (highest_near(steps(before, 10, 2.0), 1) < SMOOTH * 3) & (mean_near(before, 5) < DARK)
        lifted = np.where(
            smooth, np.float32(1) + np.clip(tones(subject.finished, subject.space) - before, 0, 1), np.float32(0)
        )
        patches = subject.patches(lifted.astype(np.float32), MOST, 1.0)
        measured = subject.together(partial(_measured, subject, rect) for rect in patches)
        found = [one for one in measured if one[0] >= threshold and one[0] >= RAISED * one[1]]
        if not found:
            return
        now, was, rect = max(found, key=lambda one: one[0])

        def without(stack: Stack) -> float:
            return noise_of(subject.patch(rect, stack), subject.space)

        blamed = subject.blamed(without, now * 0.8)
        whose = blamed.says("raises it", f"{blamed.left * 100:.1f} %")
        weaker = by_weakening_enough(subject, blamed.layer, without, threshold)
        yield Finding(
            f"Noise in the darks is {now * 100:.1f} % of tone where it was {was * 100:.1f} % ({len(found)} of "
            f"{len(patches)} places looked at).{whose}",
            "", rect, (), now / threshold, f"noise {now * 200:.0f} {blamed.mark}", weaker,
        )  # fmt: skip


def _measured(subject: Subject, rect: Rect) -> tuple[float, float, Rect]:
    """(noise now, noise before, where) of a patch."""
    return noise_of(subject.patch(rect), subject.space), noise_of(subject.patch_before(rect), subject.space), rect


def noise_of(px: Planes, space: Space) -> float:
    """The standard deviation of noise in tone, 0..1, of a patch."""
    tone = tones(px, space).astype(np.float64)
    if min(tone.shape) < 3:
        return 0.0
    middle = tone[1:-1, 1:-1]
    around = tone[:-2, 1:-1] + tone[2:, 1:-1] + tone[1:-1, :-2] + tone[1:-1, 2:]
    return float(np.median(np.abs(4 * middle - around)) * TO_DEVIATION)


CHECK = NoiseBroughtUp()
