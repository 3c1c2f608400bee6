"""Strokes laid one over the other: m += S · (to − m)."""

from __future__ import annotations

import numpy as np

from glyptic.pixels.compiled import Plane, kernel
from glyptic.pixels.vector import ONE


@kernel
def _towards(painted: Plane, cover: Plane, to: float) -> None:
    for i in range(painted.shape[0]):
        for j in range(painted.shape[1]):
            s = cover[i, j]
            painted[i, j] = to if s >= ONE else painted[i, j] + s * (to - painted[i, j])


@kernel
def _evened(painted: Plane, cover: Plane, smooth: Plane) -> None:
    for i in range(painted.shape[0]):
        for j in range(painted.shape[1]):
            painted[i, j] += cover[i, j] * (smooth[i, j] - painted[i, j])


def paint(painted: Plane, cover: Plane, to: float) -> None:
    """Move `painted` towards `to` by the stroke's coverage, in place."""
    _towards(painted, cover, np.float32(to))


def even_out(painted: Plane, cover: Plane, smooth: Plane) -> None:
    """Move `painted` towards its own blurred picture by the stroke's coverage, in place."""
    _evened(painted, cover, smooth)
