"""Dabs along a stroke (computation.md, Stroke), always in full-size pixels.

The first dab lies at the first point, each next one after max(spacing · diameter, 0.5) px of arc length, with
diameter and pressure taken at the dab just placed. Points that come later never move a dab that is there.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.document.values import Stroke
from glyptic.pixels.compiled import formula, kernel

Dabs = NDArray[np.float64]
"""(n, 5): x, y, radius, flow, opacity."""


@formula
def _put(
    out: Dabs, n: int, x: float, y: float, pressure: float, size: float, flow: float, opacity: float,
    by_size: bool, by_opacity: bool, by_flow: bool,
) -> None:  # fmt: skip
    out[n, 0] = x
    out[n, 1] = y
    out[n, 2] = max(size * 0.5 * (pressure if by_size else 1.0), 0.5)
    out[n, 3] = flow * (pressure if by_flow else 1.0)
    out[n, 4] = opacity * (pressure if by_opacity else 1.0)


@kernel
def _lay(
    points: NDArray[np.float64], size: float, flow: float, opacity: float, spacing: float,
    by_size: bool, by_opacity: bool, by_flow: bool, out: Dabs,
) -> int:  # fmt: skip
    """Lay the dabs into `out`; returns how many there are, also where `out` has no room for all."""
    room = out.shape[0]
    if room > 0:
        _put(
            out,
            0,
            points[0, 0],
            points[0, 1],
            points[0, 2],
            size,
            flow,
            opacity,
            by_size,
            by_opacity,
            by_flow,
        )
    n = 1
    radius = max(size * 0.5 * (points[0, 2] if by_size else 1.0), 0.5)
    until_next = max(spacing * 2.0 * radius, 0.5)
    for k in range(1, points.shape[0]):
        dx, dy = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
        length = np.sqrt(dx * dx + dy * dy)
        done = 0.0
        while length - done >= until_next:
            done += until_next
            t = done / length
            pressure = points[k - 1, 2] + t * (points[k, 2] - points[k - 1, 2])
            if n < room:
                _put(
                    out, n, points[k - 1, 0] + t * dx, points[k - 1, 1] + t * dy, pressure,
                    size, flow, opacity, by_size, by_opacity, by_flow,
                )  # fmt: skip
            n += 1
            radius = max(size * 0.5 * (pressure if by_size else 1.0), 0.5)
            until_next = max(spacing * 2.0 * radius, 0.5)
        until_next -= length - done
    return n


def lay_dabs(stroke: Stroke) -> Dabs:
    """Every dab of a stroke, in order."""
    points = np.frombuffer(stroke.points.packed, np.float64).reshape(-1, 3)
    p = stroke.pressure
    settings = (stroke.size, stroke.flow, stroke.opacity, stroke.spacing, p.size, p.opacity, p.flow)
    guess = np.empty((256 + 4 * len(points), 5), np.float64)
    count = _lay(points, *settings, guess)
    if count <= len(guess):
        return guess[:count]
    out = np.empty((count, 5), np.float64)
    _lay(points, *settings, out)
    return out
