"""Gaps and spill: small holes in what a mask shows, and specks in what it hides (see `analysis.gaps`)."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.analysis.gaps import specks
from glyptic.checks.check import Check, Finding, Mend
from glyptic.checks.subject import Subject
from glyptic.params import Real

WORDS = {
    "gap": ("has {count} in what it shows", "hole", "Close {them}"),
    "spill": ("has {count} outside", "speck", "Drop {them}"),
}
LEAST_PIXELS = 2
"""Of the measured level: smaller ones are grain of a hard edge."""


class GapsAndSpill(Check):
    """Looks in every mask for holes in what is shown and specks in what is hidden that are no wider than so much and
    do not reach the border."""

    name = "gaps"
    title = "Gaps and spill"
    reason = "Missed bits and spill in a mask are seen as spots once the layer is strong."
    rank = 30
    threshold = Real(
        label="Up to", unit="px", low=4, high=2000, default=120, step=4,
        help="Holes and specks up to this many pixels across are told; wider ones are meant.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state, mask in subject.masked():
            subject.check()
            size = int(subject.reader_of(state.layer.id).step)
            codes = (mask * 255).astype(np.uint8)
            for kind, (says, what, title) in WORDS.items():
                places = [
                    one.scaled(size)
                    for one in specks(codes, kind, threshold / size).places
                    if one.pixels >= LEAST_PIXELS
                ]
                if not places:
                    continue
                largest = max(places[0].rect[2:])
                count = f"{len(places)} {what}{'' if len(places) == 1 else 's'}"
                body = {"layer": state.layer.id, "across": threshold, "kind": kind, "at": None}
                yield Finding(
                    f"The mask of ‘{state.layer.name}’ {says.format(count=count)}, the largest {largest} px across.",
                    state.layer.id, places[0].rect, tuple(line for place in places for line in place.path),
                    1 + largest / threshold, f"{kind} {len(places)}",
                    (Mend(title.format(them="it" if len(places) == 1 else "them"),
                          "By a part of the mask that can be removed again.", "areas/mend", body),),
                )  # fmt: skip


CHECK = GapsAndSpill()
