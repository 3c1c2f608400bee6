"""What is done to a mask as a whole once its parts are combined: the levels and the curve on it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.curves import curve
from glyptic.document.fields import MASK_LEVELS
from glyptic.document.values import Mask
from glyptic.pixels.tables import Function, chained


def moved(mask: Mask) -> Function | None:
    """m' = curve(clamp((m − black) / (white − black)) ^ (1 / gamma)); None where that changes nothing."""
    ends = mask.levels
    through = curve(mask.curve)
    if ends == MASK_LEVELS.defaults:
        return through

    def levelled(m: NDArray[np.float64]) -> NDArray[np.float64]:
        inside = np.clip((m - ends["black"]) / (ends["white"] - ends["black"]), 0, 1)
        return np.asarray(inside ** (1 / ends["gamma"]))

    return chained(levelled, through)
