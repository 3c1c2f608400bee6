"""Values to codes: clamped, rounded half up once."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.errors import Undefined
from glyptic.pixels.compiled import Planes, kernel
from glyptic.pixels.vector import HALF, clamp01, whole

Samples = NDArray[np.unsignedinteger]
"""(h, w) or (h, w, channels) of 8- or 16-bit codes."""


@kernel
def _codes(px: Planes, highest: float, out: Samples) -> np.int64:
    """Row by row: codes of each channel, which is vector code, then interleaved. Returns how many values are none."""
    channels, w = px.shape[0], px.shape[2]
    room = np.empty((channels, w), np.int32)
    undefined = np.int64(0)
    for i in range(px.shape[1]):
        for c in range(channels):
            row, line = px[c, i], room[c]
            wrong = np.int32(0)
            for j in range(w):
                line[j] = whole(clamp01(row[j]) * highest + HALF)
                wrong += np.int32(row[j] != row[j])
            undefined += wrong
        if channels == 3:
            red, green, blue, codes = room[0], room[1], room[2], out[i]
            for j in range(w):
                codes[j, 0], codes[j, 1], codes[j, 2] = red[j], green[j], blue[j]
        else:
            for c in range(channels):
                for j in range(w):
                    out[i, j, c] = room[c, j]
    return undefined


def to_codes(px: Planes, depth: int) -> Samples:
    """(c, h, w) values to interleaved (h, w, c) codes of 8 or 16 bits. Raises Undefined for values that are none (NaN):
    they have no code, and whatever made them is wrong."""
    c, h, w = px.shape
    out: Samples = np.empty((h, w, c), np.uint8 if depth == 8 else np.uint16)
    undefined = _codes(np.ascontiguousarray(px), float32(255 if depth == 8 else 65535), out)
    if undefined:
        raise Undefined(
            f"{undefined} values of the picture came out as no number at all, which is a fault in Glyptic. Nothing was "
            "written and nothing is lost; switching off the layer changed last shows the picture again."
        )
    return out


def rounded(values: NDArray[np.floating[Any]], highest: int) -> NDArray[np.int64]:
    """Values 0..1 of any shape as codes up to `highest`: clamped, rounded half up."""
    return np.asarray(np.floor(np.clip(values, 0, 1).astype(np.float64) * highest + 0.5), np.int64)
