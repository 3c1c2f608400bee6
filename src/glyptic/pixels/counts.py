"""Counts of values in bins over 0..1, and what can be read from them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

BINS = 256
Counts = NDArray[np.float64]
"""(BINS,): how much lies in each bin; the last ones also hold what lies beyond."""


def share_between(counts: Counts, low: float, high: float) -> float:
    """The share of what is counted that lies in low..high, pixels spread evenly over their bin."""
    total = counts.sum()
    if total <= 0:
        return 0.0
    ends = np.concatenate([[0.0], np.cumsum(counts)])
    a, b = np.interp([low * BINS, high * BINS], np.arange(BINS + 1), ends)
    return float((b - a) / total)


def percentile(counts: Counts, share: float) -> float:
    """The value below which a share of what is counted lies, 0..1."""
    ends = np.concatenate([[0.0], np.cumsum(counts)])
    if ends[-1] <= 0:
        return share
    return float(np.interp(share * ends[-1], ends, np.arange(BINS + 1)) / BINS)
