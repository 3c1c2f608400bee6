"""The settings of a family of hues: where on the ring, how wide, how softly it ends."""

from __future__ import annotations

from glyptic.params import Hue, Param, Real
from glyptic.params.scalar import share

WHOLE_RING = 360.0
"""Degrees of all colours."""


def family(centre: float, width: float) -> dict[str, Param]:
    """The three settings with their defaults, in degrees on the ring of OKLCh."""
    return {
        "centre": Hue(label="Family", default=centre, help="The middle of the family on the hue ring (OKLCh)."),
        "width": Real(label="Width", help="How much of the ring belongs to it; the whole ring is all colours.",
                      default=width, unit="°", low=0, high=WHOLE_RING, step=1),
        "border": share("Soft border", "How softly the family ends: a share of a quarter turn.", 0.3),
    }  # fmt: skip
