"""Strokes laid one over the other: m += S · (to − m)."""

from __future__ import annotations

from glyptic.pixels.compiled import Plane, kernel


@kernel
def _towards(painted: Plane, cover: Plane, to: float) -> None:
    for i in range(painted.shape[0]):
        for j in range(painted.shape[1]):
            s = cover[i, j]
            if s >= 1.0:
                painted[i, j] = to
            elif s > 0.0:
                painted[i, j] += s * (to - painted[i, j])


@kernel
def _evened(painted: Plane, cover: Plane, smooth: Plane) -> None:
    for i in range(painted.shape[0]):
        for j in range(painted.shape[1]):
            s = cover[i, j]
            if s > 0.0:
                painted[i, j] += s * (smooth[i, j] - painted[i, j])


def paint(painted: Plane, cover: Plane, to: float) -> None:
    """Move `painted` towards `to` by the stroke's coverage, in place."""
    _towards(painted, cover, to)


def even_out(painted: Plane, cover: Plane, smooth: Plane) -> None:
    """Move `painted` towards its own blurred picture by the stroke's coverage, in place."""
    _evened(painted, cover, smooth)
