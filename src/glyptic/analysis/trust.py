"""Where a curve cannot be trusted: stretches that are nearly flat, that fall, or that clip, and how to mend them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.curves import Pairs, sampled
from glyptic.pixels.counts import Counts, share_between

LEAST = 0.15
"""A curve that rises less than this times as fast as the straight line is nearly flat."""
SHORTEST = 0.02
"""Flat stretches shorter than this are where a curve turns, not where contrast is lost."""
SAMPLES = 1001
HALVINGS = 20
MENDED = 1.05
"""A mended stretch rises a little more than just enough."""


@dataclass(frozen=True)
class Stretch:
    """A stretch of a curve from x = low to high. kind: 'flat', 'falling' or 'clipped'; share: of the picture's pixels
    that lie in it, 0..1."""

    kind: str
    low: float
    high: float
    share: float


def _kinds(points: Pairs) -> NDArray[np.str_]:
    """What is wrong between each two samples."""
    y = sampled(points, SAMPLES)
    rise = np.diff(y) * (SAMPLES - 1)
    middle = (y[1:] + y[:-1]) / 2
    flat = rise < LEAST
    kinds = np.where(flat, "flat", "").astype("U7")
    kinds[rise < -1e-9] = "falling"
    kinds[(np.abs(rise) < 1e-9) & ((middle <= 0) | (middle >= 1))] = "clipped"
    return kinds


def stretches(points: Pairs, counts: Counts) -> list[Stretch]:
    """Every stretch that is nearly flat, falls or clips, from dark to bright. counts: of the channel's values that
    reach the curve, in a histogram's bins."""
    kinds = _kinds(points)
    edges = np.flatnonzero(np.concatenate([[True], kinds[1:] != kinds[:-1], [True]]))
    found = []
    for start, end in zip(edges, edges[1:], strict=False):
        kind, low, high = str(kinds[start]), start / (SAMPLES - 1), end / (SAMPLES - 1)
        if kind and (kind != "flat" or high - low >= SHORTEST):
            found.append(Stretch(kind, float(low), float(high), share_between(counts, float(low), float(high))))
    return found


def _wrong(points: Pairs, low: float, high: float) -> int:
    """How many samples in low..high are in a stretch that cannot be trusted."""
    rise = np.diff(sampled(points, SAMPLES)) * (SAMPLES - 1)
    return int((rise[round(low * (SAMPLES - 1)) : round(high * (SAMPLES - 1))] < LEAST).sum())


def _parted(points: Pairs, i: int, by: float) -> Pairs:
    """The curve with point i lowered and the next raised until they are `by` further apart: half each, and what one
    cannot go for the range's end or for its neighbour beyond, the other goes."""
    (x0, y0), (x1, y1) = points[i], points[i + 1]
    floor = points[i - 1][1] + LEAST * (x0 - points[i - 1][0]) if i > 0 else 0.0
    ceiling = points[i + 2][1] - LEAST * (points[i + 2][0] - x1) if i + 2 < len(points) else 1.0
    down_most, up_most = max(0.0, y0 - max(0.0, floor)), max(0.0, min(1.0, ceiling) - y1)
    down = min(by / 2, down_most)
    up = min(by - down, up_most)
    down = min(by - up, down_most)
    moved = list(points)
    moved[i], moved[i + 1] = (x0, y0 - down), (x1, y1 + up)
    return tuple(moved)


def mended(points: Pairs, low: float, high: float) -> Pairs:
    """The curve with the stretch low..high mended by moving the two points nearest to it as little as needed. A stretch
    before the first point or after the last is mended by moving that point to the end of the range."""
    middle = (low + high) / 2
    if middle <= points[0][0]:
        return ((0.0, points[0][1]), *points[1:])
    if middle >= points[-1][0]:
        return (*points[:-1], (1.0, points[-1][1]))
    i = max(k for k in range(len(points) - 1) if points[k][0] < middle)
    inside = max(low, points[i][0]), min(high, points[i + 1][0])
    least, most = 0.0, 2.0
    for _ in range(HALVINGS):
        by = (least + most) / 2
        wrong, best = _wrong(_parted(points, i, by), *inside), _wrong(_parted(points, i, most), *inside)
        least, most = (least, by) if wrong <= best else (by, most)
    parted = _parted(points, i, most * MENDED)
    return tuple((x, round(y, 4)) for x, y in parted)
