"""Dabs along a stroke (computation.md, Stroke), always in full-size pixels.

The first dab lies at the first point, each next one after max(spacing · diameter, 0.5) px of arc length, with
diameter taken at the dab just placed. Points that come later never move a dab that is there.

What the pen tells drives a dab's measures by a factor each, worked out at the points and linear between them: pressure
p by p, tilt t by 1/4 + 3/4 t (a pen that leans does more), speed s by 1 − 3/4 s (a fast one does less); where several
drive the same measure, by their product.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.document.values import LEANING, Stroke
from glyptic.pixels.compiled import formula, kernel

Dabs = NDArray[np.float64]
"""(n, 5): x, y, radius, flow, opacity."""


@formula
def _put(
    out: Dabs, n: int, x: float, y: float, by: NDArray[np.float64], size: float, flow: float, opacity: float
) -> None:
    out[n, 0] = x
    out[n, 1] = y
    out[n, 2] = max(size * 0.5 * by[0], 0.5)
    out[n, 3] = flow * by[2]
    out[n, 4] = opacity * by[1]


@kernel
def _lay(
    points: NDArray[np.float64], factors: NDArray[np.float64], size: float, flow: float, opacity: float, spacing: float,
    out: Dabs,
) -> int:  # fmt: skip
    """Lay the dabs into `out`; returns how many there are, also where `out` has no room for all. factors: (n, 3), of
    size, opacity and flow at each point."""
    room = out.shape[0]
    by = factors[0].copy()
    if room > 0:
        _put(out, 0, points[0, 0], points[0, 1], by, size, flow, opacity)
    n = 1
    until_next = max(spacing * 2.0 * max(size * 0.5 * by[0], 0.5), 0.5)
    for k in range(1, points.shape[0]):
        dx, dy = points[k, 0] - points[k - 1, 0], points[k, 1] - points[k - 1, 1]
        length = np.sqrt(dx * dx + dy * dy)
        done = 0.0
        while length - done >= until_next:
            done += until_next
            t = done / length
            for i in range(3):
                by[i] = factors[k - 1, i] + t * (factors[k, i] - factors[k - 1, i])
            if n < room:
                _put(out, n, points[k - 1, 0] + t * dx, points[k - 1, 1] + t * dy, by, size, flow, opacity)
            n += 1
            until_next = max(spacing * 2.0 * max(size * 0.5 * by[0], 0.5), 0.5)
        until_next -= length - done
    return n


LEAST_DRIVEN = 0.25
"""What is left of a measure where the pen stands upright, or is as fast as can be."""


def _factors(points: NDArray[np.float64], stroke: Stroke) -> NDArray[np.float64]:
    """(n, 3): by what size, opacity and flow are multiplied at each point."""
    out = np.ones((len(points), 3), np.float64)
    told = [points[:, 2]]
    if points.shape[1] == LEANING:
        told += [LEAST_DRIVEN + (1 - LEAST_DRIVEN) * points[:, 3], 1 - (1 - LEAST_DRIVEN) * points[:, 4]]
    for factor, drives in zip(told, (stroke.pressure, stroke.tilt, stroke.speed), strict=False):
        for i, driven in enumerate((drives.size, drives.opacity, drives.flow)):
            if driven:
                out[:, i] *= factor
    return out


def lay_dabs(stroke: Stroke) -> Dabs:
    """Every dab of a stroke, in order."""
    points = np.frombuffer(stroke.points.packed, np.float64).reshape(-1, stroke.points.columns)
    settings = (points, _factors(points, stroke), stroke.size, stroke.flow, stroke.opacity, stroke.spacing)
    guess = np.empty((256 + 4 * len(points), 5), np.float64)
    count = _lay(*settings, guess)
    if count <= len(guess):
        return guess[:count]
    out = np.empty((count, 5), np.float64)
    _lay(*settings, out)
    return out
