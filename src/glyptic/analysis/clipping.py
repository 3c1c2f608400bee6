"""Which channels of which pixels lie at an end of the range: blown or blocked, with no detail left to recover."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes

NEAR = 1e-4
"""How near to an end counts as on it: less than half a step of 12 bits, more than rounding."""
BLOWN, BLOCKED = 1 - NEAR, NEAR
Marks = NDArray[np.bool_]


def blown(px: Planes) -> Marks:
    """(3, h, w): whether a channel is at or above white."""
    return np.asarray(px >= BLOWN)


def blocked(px: Planes) -> Marks:
    """(3, h, w): whether a channel is at or below black."""
    return np.asarray(px <= BLOCKED)


def newly_clipped(before: Planes, after: Planes) -> float:
    """The share of pixels of which some channel is clipped after and none was before."""
    was, now = ((blown(px) | blocked(px)).any(0) for px in (before, after))
    return float((now & ~was).mean())
