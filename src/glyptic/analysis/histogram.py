"""Histograms of encoded channels and of tone."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes
from glyptic.pixels.srgb import tone

BINS = 128
CHANNELS = ("red", "green", "blue")


def _counts(plane: NDArray[np.float32]) -> NDArray[np.int64]:
    bins = np.clip((plane * BINS).astype(np.int64), 0, BINS - 1)
    return np.bincount(bins.ravel(), minlength=BINS)


def histograms(px: Planes) -> dict[str, NDArray[np.int64]]:
    """Counts of red, green, blue, rgb (all three together) and tone, in BINS bins over 0..1."""
    out = {name: _counts(px[c]) for c, name in enumerate(CHANNELS)}
    out["rgb"] = out["red"] + out["green"] + out["blue"]
    out["tone"] = _counts(tone(px))
    return out
