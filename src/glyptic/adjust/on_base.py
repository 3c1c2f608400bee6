"""What adjustments on an edge-preserving base have in common.

Source of the base: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010 (pixels/guided.py).
"""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from glyptic.adjust.kind import Neighbourhood
from glyptic.params import Length, Values
from glyptic.pixels import guided
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space, tone

WIDEST = 1.0
"""The radius counts up to this share of the picture's longer side: beyond it a window would see mirrors only."""


class OnBase(Neighbourhood):
    """A kind with a setting `radius` that parts tone into a base, smooth but for strong edges, and the detail on it.

    edge: a difference of tone that begins to count as an edge rather than as detail.
    """

    planes = 2
    edge: ClassVar[float]

    def gaze(self, settings: Values) -> Values:
        return Values({"radius": settings["radius"]})

    def within(self, settings: Values, width: int, height: int) -> Values:
        return Values({"radius": min(settings["radius"], WIDEST * max(width, height))})

    def reduction(self, settings: Values, step: float) -> int:
        return guided.reduction(settings["radius"] / 2 / step)

    def coarser(self, settings: Values, step: float) -> int:
        return guided.coarser(settings["radius"] / 2 / step)

    def reach(self, settings: Values, step: float) -> int:
        return guided.reach(settings["radius"] / 2 / step)

    def around(self, settings: Values, px: Planes, step: float, space: Space) -> Planes:
        return guided.factors(tone(px, space), settings["radius"] / 2 / step, self.edge)

    def parted(self, around: Planes, px: Planes, space: Space) -> tuple[Plane, Plane]:
        """Tone and its base (h, w) of a strip; the caller's to write."""
        tones = tone(px, space)
        base = np.empty_like(tones)
        guided.base_of(tones, around, base)
        return tones, base


def radius(help_text: str, default: float, low: float, high: float) -> Length:
    """The setting, with the ends of its bar."""
    return Length(label="Radius", help=help_text, default=default, low=2, high=1000, step=1, soft_low=low,
                soft_high=high)  # fmt: skip
