"""By how much a picture is off level: from its strongest long lines (R. Grompone von Gioi et al. 2012, LSD)."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from glyptic.document.framing import nearest_right_angle

LONG = 0.08
"""Share of the picture's longer side from which a line counts."""
MOST_OFF = 20.0
"""Degrees further off than which a line is taken to be meant so."""
NEAR = 0.4
"""Degrees within which lines agree."""
FEWEST = 3
LEAST_AGREEING = 0.2


@dataclass(frozen=True)
class Level:
    """by: degrees to turn the crop by. lines: how many long lines agree on it; share: of the length of all, 0..1."""

    by: float
    lines: int
    share: float


def find_level(grey: NDArray[np.uint8]) -> Level | None:
    """The turn that brings the most of the long lines level or plumb; None where too few agree."""
    found: NDArray[np.float32] | None = cv2.createLineSegmentDetector().detect(grey)[0]  # type: ignore[assignment]
    if found is None:
        return None
    x0, y0, x1, y1 = found.reshape(-1, 4).T.astype(float)
    length = np.hypot(x1 - x0, y1 - y0)
    off = np.array([nearest_right_angle(angle) for angle in np.degrees(np.arctan2(y1 - y0, x1 - x0))])
    counted = (length >= LONG * max(grey.shape)) & (np.abs(off) <= MOST_OFF)
    off, length = off[counted], length[counted]
    if len(off) < FEWEST:
        return None
    agree = np.abs(off[:, None] - off[None, :]) <= NEAR
    best = agree[np.argmax(agree @ length)]
    share = float(length[best].sum() / length.sum())
    if best.sum() < FEWEST or share < LEAST_AGREEING:
        return None
    return Level(float(np.average(off[best], weights=length[best])), int(best.sum()), share)
