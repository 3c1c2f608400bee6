"""Values to codes: clamped, rounded half up once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.compiled import Planes, kernel

Samples = NDArray[np.unsignedinteger]
"""(h, w) or (h, w, channels) of 8- or 16-bit codes."""


@kernel
def _codes8(px: Planes, out: NDArray[np.uint8]) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            for c in range(px.shape[0]):
                out[i, j, c] = np.uint8(min(max(px[c, i, j] * 255.0, 0.0), 255.0) + 0.5)


@kernel
def _codes16(px: Planes, out: NDArray[np.uint16]) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            for c in range(px.shape[0]):
                out[i, j, c] = np.uint16(min(max(px[c, i, j] * 65535.0, 0.0), 65535.0) + 0.5)


def to_codes(px: Planes, depth: int) -> Samples:
    """(c, h, w) values to interleaved (h, w, c) codes of 8 or 16 bits."""
    c, h, w = px.shape
    if depth == 8:
        eight = np.empty((h, w, c), np.uint8)
        _codes8(px, eight)
        return eight
    sixteen = np.empty((h, w, c), np.uint16)
    _codes16(px, sixteen)
    return sixteen
