"""Halos: where a mask reaches over a strong edge of the picture, or falls short of it (see `analysis.gaps`)."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.analysis.gaps import FAR, halos
from glyptic.checks.check import Check, Finding, Mend
from glyptic.checks.edges import mean_where
from glyptic.checks.subject import State, Subject, tones
from glyptic.params import Real

OPEN_ENOUGH = 0.1
WORDS = {"over": "bleeds over", "short": "falls short of"}
SNAPPED_WITHIN = 4
"""How far, in pixels of the measured level, the mend looks for the edge."""
LEAST_CHANGE = 0.003


class Halos(Check):
    """Goes along strong edges of the picture below each masked layer: where, some pixels further off, the mask shows
    one side and hides the other, it should do so up to the edge. Weighed by how much the layer changes there."""

    name = "halos"
    title = "Halos"
    reason = "A halo around the subject is the mark of a mask that does not keep to its edge."
    rank = 40
    threshold = Real(
        label="Change of tone", unit="%", low=0.001, high=0.1, default=0.01, step=0.001,
        help="How much tone the layer must change along the edge for a halo to be told.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state, mask in subject.masked():
            if mask.min() < 0.2 and mask.max() > 0.8:
                yield from self._along(subject, state, mask, threshold)

    def _along(self, subject: Subject, state: State, mask: np.ndarray, threshold: float) -> Iterator[Finding]:
        subject.check()
        layer, below = state.layer, tones(state.below, state.space)
        change = np.abs(tones(state.above, state.space) - below) / np.maximum(mask, OPEN_ENOUGH)
        shown = np.where(mask > OPEN_ENOUGH, change, np.float32(0)).astype(np.float32)
        if shown.max() < LEAST_CHANGE:
            return
        open_ = np.maximum(shown, mean_where(shown, mask > OPEN_ENOUGH, 2 * FAR + 1))
        found = [place for place in halos(below, mask, open_) if place.worth >= threshold]
        if not found:
            return
        size = int(subject.reader_of(layer.id).step)
        worst, kinds = found[0].scaled(size), {place.kind for place in found}
        what = " and ".join(WORDS[kind] for kind in WORDS if kind in kinds)
        length = sum(place.pixels for place in found) * size
        within = SNAPPED_WITHIN * size
        yield Finding(
            f"The mask of ‘{layer.name}’ {what} strong edges, along about {length:,} px; worst by "
            f"{found[0].worth * 100:.1f} % of tone.",
            layer.id, worst.rect, tuple(line for place in found for line in place.scaled(size).path),
            found[0].worth / threshold, "halos",
            (Mend("Snap to edges", f"Moves the mask's edge to the picture's, within {within} px.", "areas/snap",
                  {"layer": layer.id, "width": within}),),
        )  # fmt: skip


CHECK = Halos()
