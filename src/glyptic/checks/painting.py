"""An edge in what a layer does where the picture has none: the painting is seen, not the picture.

What a layer changes is taken as a change of tone, and its steps over a few pixels of the picture as a screen shows it
are compared with those of the picture below: a step that runs along an edge of the picture is hidden by it, one in a
smooth area is seen, by the lateral inhibition that E. Mach described (1865).
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.checks.check import Check, Finding, Mend, by_setting, by_weakening
from glyptic.checks.edges import areas, highest_near, steps
from glyptic.checks.subject import State, Subject, tones
from glyptic.params import Real

ACROSS = 4
"""Pixels of the measured level over which a step is measured."""
HIDDEN_WITHIN = 4
"""So near to an edge of the picture a step is hidden by it."""
HIDES = 0.6
"""A step of the picture hides one that is no more than this much larger again."""
JOINED, LEAST = 5, 24
FEATHER = 6
"""By how many pixels of the measured level a mask is feathered more."""


class PaintingShows(Check):
    """Takes the change of tone that each layer makes, and marks where it steps while the picture below does not."""

    name = "painting"
    title = "Painting that shows"
    reason = "An edge in what a layer does, where the picture has none, gives the retouching away."
    rank = 20
    threshold = Real(
        label="Step", unit="%", low=0.005, high=0.2, default=0.02, step=0.005,
        help="The step of tone over about four pixels, at fit, from which on an edge counts.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state in subject.at_work():
            if _is_confined(state):
                yield from self._edges(subject, state, threshold)

    def _edges(self, subject: Subject, state: State, threshold: float) -> Iterator[Finding]:
        layer, below = state.layer, tones(state.below, state.space)
        seen = steps(tones(state.above, state.space) - below, ACROSS)
        hidden = highest_near(steps(below, ACROSS), HIDDEN_WITHIN) * np.float32(HIDES)
        marks = (seen >= threshold) & (seen > hidden)
        size = int(subject.reader_of(layer.id).step)
        found = sorted(areas(marks, JOINED, LEAST), key=lambda area: -area.pixels)
        for area in found[:1]:
            inside = seen[area.rect.y : area.rect.bottom, area.rect.x : area.rect.right][area.inside]
            step = float(np.percentile(inside, 90))
            length = int(sum(one.pixels for one in found) / 2 * size)
            yield Finding(
                f"‘{layer.name}’ has an edge where the picture has none: a step of {step * 100:.1f} % of tone, along "
                f"about {length:,} px.",
                layer.id, subject.full(area.rect, layer.id),
                tuple(line for one in found for line in one.path(size)), step / threshold, "edge",
                tuple(_mends(state, step, threshold, size)),
            )  # fmt: skip


def _is_confined(state: State) -> bool:
    """Whether a layer works in a part of the picture only, so that it has edges of its own."""
    layer = state.layer
    return layer.mask is not None or bool(layer.strokes)


def _mends(state: State, step: float, threshold: float, size: int) -> Iterator[Mend]:
    layer = state.layer
    if layer.mask is not None:
        feather = round(layer.mask.feather + FEATHER * size, 1)
        yield by_setting(
            "Feather the mask",
            f"Feathers the whole mask: a sigma of {feather:g} px.",
            layer.id,
            "mask.feather",
            feather,
        )
    weaker = round(layer.opacity * threshold / step * 0.9, 2)
    if weaker >= 0.05:
        yield by_weakening(layer, weaker)


CHECK = PaintingShows()
