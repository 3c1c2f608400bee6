"""Histograms of encoded channels and of tone."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.counts import BINS, Counts
from glyptic.pixels.spaces import Space, tone
from glyptic.pixels.vector import clamp

CHANNELS = ("red", "green", "blue")
FIRST, LAST, PER_UNIT = float32(0), float32(BINS - 1), float32(BINS)


@kernel
def _count(plane: Plane, weights: Plane, out: Counts) -> None:
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            out[int(clamp(plane[i, j] * PER_UNIT, FIRST, LAST))] += weights[i, j]


def histograms(px: Planes, space: Space, weights: Plane | None = None) -> dict[str, Counts]:
    """Counts of red, green, blue, rgb (all three together) and tone, in BINS bins over 0..1; what lies beyond counts
    in the last. weights: (h, w), how much each pixel counts; None for 1 each."""
    if weights is None:
        weights = np.ones(px.shape[1:], np.float32)
    out = {}
    for name, plane in zip((*CHANNELS, "tone"), (*px, tone(px, space)), strict=True):
        out[name] = np.zeros(BINS)
        _count(np.ascontiguousarray(plane), weights, out[name])
    out["rgb"] = out["red"] + out["green"] + out["blue"]
    return out
