"""Blur: the Gaussian on encoded values."""

from __future__ import annotations

from typing import Any

from glyptic.adjust.kind import Neighbourhood
from glyptic.document.fields import LONGEST_SIGMA
from glyptic.params import Length, Schema, Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space

SHOWN = 0.006
"""The sigma the kind is shown with, as a share of the picture's longer side."""


class Blur(Neighbourhood):
    """The Gaussian of computation.md; at level N sigma is divided by 2^N."""

    name = "blur"
    title = "Blur"
    purpose = "Detail"
    channelwise = True
    rank = 3
    summary = "Softens detail; through a mask it throws a part out of focus."
    schema = Schema(
        {
            "sigma": Length(label="Blur", help="The Gaussian's sigma.", low=0, high=LONGEST_SIGMA,
                          step=0.5, soft_high=100),
        }
    )  # fmt: skip

    def starting(self, width: int, height: int) -> dict[str, Any]:
        return {"sigma": 0}

    def sampled(self, width: int, height: int) -> dict[str, Any]:
        return {"settings": {"sigma": round(SHOWN * max(width, height), 1)}}

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["sigma"] == 0)

    def gaussian(self, settings: Values) -> float:
        return float(settings["sigma"])

    def reduction(self, settings: Values, step: float) -> int:
        return gaussian.reduction(settings["sigma"] / step)

    def coarser(self, settings: Values, step: float) -> int:
        return gaussian.coarser(settings["sigma"] / step)

    def reach(self, settings: Values, step: float) -> int:
        return gaussian.small_reach(settings["sigma"] / step)

    def around(self, settings: Values, px: Planes, step: float, space: Space) -> Planes:
        return gaussian.small_blur(px, settings["sigma"] / step)


BLUR = Blur()
