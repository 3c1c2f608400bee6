"""Flat, falling and clipping stretches of curves, by the share of pixels that lies in them (see `analysis.trust`)."""

from __future__ import annotations

from collections.abc import Iterator

from glyptic.adjust.curves import CURVES
from glyptic.analysis.histogram import histograms
from glyptic.analysis.trust import Stretch, stretches
from glyptic.checks.check import Check, Finding, Mend
from glyptic.checks.subject import State, Subject
from glyptic.params import Real

LOSES = {"flat": "nearly flat: {share} of what reaches it loses contrast",
         "falling": "falling: {share} of what reaches it is turned about",
         "clipped": "clipping: {share} of what reaches it becomes one tone"}  # fmt: skip
NAMES = {"rgb": "", "red": " of red", "green": " of green", "blue": " of blue", "tone": " of tone"}


class CurveStretches(Check):
    """Goes through every curve of every curves layer, and counts the pixels that reach it in each stretch that rises
    less than 0.15 times as fast as the straight line, falls, or clips."""

    name = "curves"
    title = "Stretches of curves"
    reason = "Flat stretches kill contrast, falling ones turn colour about, clipping ones lose detail for good."
    rank = 5
    threshold = Real(
        label="Share", unit="%", low=0.001, high=0.5, default=0.03, step=0.005,
        help="The share of the pixels reaching the curve that must lie in such a stretch.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state in subject.at_work():
            if state.layer.kind == CURVES.name:
                counts = histograms(state.below, state.space, subject.mask(state.layer.id))
                for channel, points in state.layer.settings["points"].items():
                    for stretch in stretches(points, counts[channel]):
                        if stretch.share >= threshold:
                            yield _told(state, channel, stretch, threshold)


def _told(state: State, channel: str, stretch: Stretch, threshold: float) -> Finding:
    layer = state.layer
    share = f"{stretch.share * 100:.0f} %"
    body = {"layer": layer.id, "channel": channel, "low": stretch.low, "high": stretch.high}
    return Finding(
        f"The curve{NAMES[channel]} of ‘{layer.name}’ is {LOSES[stretch.kind].format(share=share)}, from "
        f"{stretch.low * 100:.0f} to {stretch.high * 100:.0f} %.",
        layer.id, None, (), stretch.share / threshold, f"{channel} {stretch.kind}",
        (Mend("Mend the curve", "Moves the two points beside it as little as it takes.", "mend", body),),
    )  # fmt: skip


CHECK = CurveStretches()
