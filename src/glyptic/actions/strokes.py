"""Strokes as objects: which lie under a spot, and what the page shows of them."""

from __future__ import annotations

from dataclasses import dataclass

from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Rect
from glyptic.brush.coverage import coverage
from glyptic.document.edits.strokes import paintings_of
from glyptic.document.tree import layer_of
from glyptic.document.values import Stack, Stroke
from glyptic.pixels.shapes import Patch

LEAST = 0.004
"""A stroke that covers a spot less than this is not felt there."""
MOST_FOUND = 60
MOST_POINTS = 80
"""As many points of a stroke are shown."""


@dataclass(frozen=True)
class Found:
    """A stroke under a spot. part, index: its place; here: how much it covers there, 0..1."""

    part: int
    index: int
    stroke: Stroke
    here: float

    @property
    def line(self) -> list[tuple[float, float]]:
        """Its path, thinned out, in full-size pixels."""
        points = [(x, y) for x, y, *_ in self.stroke.points]
        if len(points) <= MOST_POINTS:
            return points
        step = (len(points) - 1) / (MOST_POINTS - 1)
        return [points[round(i * step)] for i in range(MOST_POINTS)]


def _near(stroke: Stroke, x: float, y: float) -> bool:
    left, top, right, bottom = stroke.bounds
    reach = stroke.size / 2 + 1
    return left - reach <= x <= right + reach and top - reach <= y <= bottom + reach


def strokes_at(workshop: Workshop, stack: Stack, layer_id: str, x: float, y: float) -> list[Found]:
    """The strokes of a layer's paintings that cover a spot (full-size pixels), the newest first; none outside the
    picture."""
    layer = layer_of(stack, layer_id)
    inner = workshop.plan(stack).inner
    place = Rect(int(x), int(y), 1, 1)
    if x < 0 or y < 0 or x >= inner.width or y >= inner.height:
        return []
    patch = Patch(place, 0, *inner)
    found: list[Found] = []
    for part, strokes in paintings_of(layer).items():
        for index in range(len(strokes) - 1, -1, -1):
            stroke = strokes[index]
            if len(found) < MOST_FOUND and _near(stroke, x, y):
                here = float(coverage(stroke, patch)[0, 0])
                if here >= LEAST:
                    found.append(Found(part, index, stroke, here))
    return found
