"""Values to codes: clamped, rounded half up.

255 goes into 65535 without a rest, and half-way between two codes of 8 bits lies half-way between two of 16: so what is
rounded to 16 bits and then to 8 is what is rounded to 8 at once, and whoever has kept the former has the latter.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.errors import Undefined
from glyptic.pixels.compiled import Planes, formula, kernel
from glyptic.pixels.vector import HALF, clamp01, whole

Samples = NDArray[np.unsignedinteger]
"""(h, w) or (h, w, channels) of 8- or 16-bit codes."""


HIGHEST = float32(65535)
HALF_CODE, PER_CODE, SHIFT = np.uint32(128), np.uint32(65281), np.uint32(24)
"""(n + 128) · 65281 >> 24 is (n + 128) // 257 for every n of 16 bits."""
EIGHT, SIXTEEN, OPAQUE = np.uint32(8), np.uint32(16), np.uint32(0xFF000000)


@formula
def _narrowed(code: int) -> np.int32:
    """A code of 16 bits as one of 8."""
    return np.int32(((np.uint32(code) + HALF_CODE) * PER_CODE) >> SHIFT)


@kernel
def narrowed(codes: NDArray[np.uint16], out: NDArray[np.uint8]) -> None:
    """Codes (h, w, channels) of 16 bits as those of 8."""
    for i in range(codes.shape[0]):
        for j in range(codes.shape[1]):
            for c in range(codes.shape[2]):
                out[i, j, c] = _narrowed(codes[i, j, c])


@kernel
def _codes(px: Planes, narrow: bool, out: Samples) -> np.int64:
    """Row by row: codes of each channel, which is vector code, then interleaved. Returns how many values are none."""
    channels, w = px.shape[0], px.shape[2]
    room = np.empty((channels, w), np.int32)
    undefined = np.int64(0)
    for i in range(px.shape[1]):
        for c in range(channels):
            row, line = px[c, i], room[c]
            wrong = np.int32(0)
            for j in range(w):
                line[j] = whole(clamp01(row[j]) * HIGHEST + HALF)
                wrong += np.int32(row[j] != row[j])
            if narrow:
                for j in range(w):
                    line[j] = _narrowed(line[j])
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


@kernel
def _onto_canvas(px: Planes, x: int, y: int, out: NDArray[np.uint32]) -> np.int64:
    """A pixel of a canvas is one word. Returns how many values are none."""
    undefined = np.int64(0)
    for i in range(px.shape[1]):
        red, green, blue, row = px[0, i], px[1, i], px[2, i], out[y + i, x:]
        wrong = np.int32(0)
        for j in range(px.shape[2]):
            r, g, b = red[j], green[j], blue[j]
            word = np.uint32(_narrowed(whole(clamp01(r) * HIGHEST + HALF)))
            word |= np.uint32(_narrowed(whole(clamp01(g) * HIGHEST + HALF))) << EIGHT
            word |= np.uint32(_narrowed(whole(clamp01(b) * HIGHEST + HALF))) << SIXTEEN
            row[j] = word | OPAQUE
            wrong += np.int32(red[j] != red[j]) + np.int32(green[j] != green[j]) + np.int32(blue[j] != blue[j])
        undefined += wrong
    return undefined


def _check_defined(undefined: int) -> None:
    if undefined:
        raise Undefined(
            f"{undefined} values of the picture came out as no number at all, which is a fault in Glyptic. Nothing was "
            "written and nothing is lost; switching off the layer changed last shows the picture again."
        )


def to_codes(px: Planes, depth: int) -> Samples:
    """(c, h, w) values to interleaved (h, w, c) codes of 8 or 16 bits. Raises Undefined for values that are none (NaN):
    they have no code, and whatever made them is wrong."""
    c, h, w = px.shape
    out: Samples = np.empty((h, w, c), np.uint8 if depth == 8 else np.uint16)
    _check_defined(_codes(np.ascontiguousarray(px), depth == 8, out))
    return out


def canvas(height: int, width: int) -> NDArray[np.uint8]:
    """Room for (h, w, 4) codes as a canvas has them; see `onto_canvas`."""
    return np.empty((height, width, 4), np.uint8)


def onto_canvas(px: Planes, x: int, y: int, out: NDArray[np.uint8]) -> None:
    """Write (3, h, w) values at a place of a canvas (height, width, 4): codes of 8 bits as `to_codes` gives them, and
    all there. Raises Undefined as `to_codes` does."""
    _check_defined(_onto_canvas(np.ascontiguousarray(px), x, y, out.view(np.uint32)[:, :, 0]))


def rounded(values: NDArray[np.floating[Any]], highest: int) -> NDArray[np.int64]:
    """Values 0..1 of any shape as codes up to `highest`: clamped, rounded half up."""
    return np.asarray(np.floor(np.clip(values, 0, 1).astype(np.float64) * highest + 0.5), np.int64)
