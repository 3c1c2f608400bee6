"""Grain: the texture of film, fixed to the picture's pixels.

The chance in it is a hash of a counter (the place of a grain, and a seed): the same at every render. Source of the
mixing steps: T. Mueller's 32-bit integer hash, as in C. Wellons 2018, "Prospecting for Hash Functions" (lowbias32).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy import float32, uint32

from glyptic.adjust.kind import PointWise
from glyptic.params import Length, Real, Schema, Values, Whole
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import tone_of
from glyptic.pixels.vector import ONE

FIRST, SECOND = uint32(0x7FEB352D), uint32(0x846CA68B)
ROW = uint32(0x9E3779B9)
SEEDED = uint32(0x85EBCA6B)
BYTES, HALF_MASK, HALF_WORD = uint32(0x00FF00FF), uint32(0xFFFF), uint32(16)
MIDDLE = float32(2 * 255)
PER_SPREAD = float32(1 / (2 * 73.9))
"""Four bytes together have a standard deviation of 2 · 73.9."""
FOUR, HALF = float32(4), float32(0.5)
NEAR = 1e-6
"""Full-size pixels by which a place may lie beside an edge and still count as on it."""
REMEMBERED = 64
"""Pieces of grain that are remembered: 16 MB."""


@formula
def _grain(x: int, y: int, seed: uint32) -> float:
    """Grain at a place of the lattice, of the four bytes of a hash: mean 0, deviation 1, close to a Gaussian."""
    h = uint32(uint32(x) + uint32(y) * ROW + seed * SEEDED)
    h = uint32((h ^ (h >> HALF_WORD)) * FIRST)
    h = uint32((h ^ (h >> uint32(15))) * SECOND)
    h = uint32(h ^ (h >> HALF_WORD))
    low, high = uint32(h & BYTES), uint32((h >> uint32(8)) & BYTES)
    pairs = uint32(low + high)
    together = uint32((pairs & HALF_MASK) + (pairs >> HALF_WORD))
    return (float32(together) - MIDDLE) * PER_SPREAD


@formula
def _share(at: int, first: float, last: float) -> float:
    """How much of a full-size pixel lies between two places."""
    return float32(min(at + 1.0, last) - max(float(at), first))


@formula
def _span(at: int, step: float, end: int) -> tuple[float, float, int, int]:
    """What a pixel of a level covers, in full-size pixels: from, to, the first and the one after the last."""
    first, last = at * step, min((at + 1) * step, float(end))
    return first, last, int(np.floor(first + NEAR)), int(np.ceil(last - NEAR))


@kernel
def _grains(x0: int, y0: int, step: float, width: int, height: int, size: float, seed: uint32, out: Plane) -> None:
    """The mean over the full-size pixels that each pixel covers."""
    for i in range(out.shape[0]):
        from_y, to_y, top, bottom = _span(y0 + i, step, height)
        for j in range(out.shape[1]):
            from_x, to_x, left, right = _span(x0 + j, step, width)
            total = float32(0)
            for y in range(top, bottom):
                v = (y + 0.5) / size - 0.5
                row = int(np.floor(v))
                fy = float32(v - row)
                down = _share(y, from_y, to_y)
                for x in range(left, right):
                    u = (x + 0.5) / size - 0.5
                    column = int(np.floor(u))
                    fx = float32(u - column)
                    near = (ONE - fx) * _grain(column, row, seed) + fx * _grain(column + 1, row, seed)
                    far = (ONE - fx) * _grain(column, row + 1, seed) + fx * _grain(column + 1, row + 1, seed)
                    together = (ONE - fy) * near + fy * far
                    spread = (ONE - fx) * (ONE - fx) + fx * fx
                    spread *= (ONE - fy) * (ONE - fy) + fy * fy
                    total += down * _share(x, from_x, to_x) * together / np.sqrt(spread)
            out[i, j] = total / float32((to_y - from_y) * (to_x - from_x))


@kernel
def _fine_grains(x0: int, y0: int, step: float, width: int, height: int, seed: uint32, out: Plane) -> None:
    """As `_grains`, of a size of one pixel."""
    for i in range(out.shape[0]):
        from_y, to_y, top, bottom = _span(y0 + i, step, height)
        for j in range(out.shape[1]):
            from_x, to_x, left, right = _span(x0 + j, step, width)
            total = float32(0)
            for y in range(top, bottom):
                down = _share(y, from_y, to_y)
                for x in range(left, right):
                    total += down * _share(x, from_x, to_x) * _grain(x, y, seed)
            out[i, j] = total / float32((to_y - from_y) * (to_x - from_x))


@lru_cache(REMEMBERED)
def grains(patch: Patch, size: float, seed: int) -> Plane:
    """(h, w) of grain over a patch, standard deviation 1 at full size; not to be written."""
    out = np.empty(patch.shape, np.float32)
    if size == 1:
        _fine_grains(*patch.origin, patch.step, patch.width, patch.height, uint32(seed), out)
    else:
        _grains(*patch.origin, patch.step, patch.width, patch.height, size, uint32(seed), out)
    return out


@kernel
def _strew(px: Planes, alpha: Plane, grain: Plane, amount: float, of: Primaries) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            t = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j], of))
            room = FOUR * t * (ONE - t)
            more = amount * grain[i, j] * (room if room > float32(0) else float32(0)) * alpha[i, j]
            px[0, i, j] += more
            px[1, i, j] += more
            px[2, i, j] += more


class Grain(PointWise):
    """Each channel + 0.1 · amount · 4 t (1 − t) · n, encoded, t the tone: strongest in the middle, none in black and
    white. n has a standard deviation of 1: hashed at the points of a lattice `size` pixels wide and interpolated; at
    level N it is the mean of level 0's."""

    name = "grain"
    title = "Grain"
    purpose = "Detail"
    channelwise = True
    rank = 4
    summary = "Strews grain as film has it, against banding and for a surface that holds together."
    sample = {"amount": 0.4, "size": 2}
    schema = Schema(
        {
            "amount": Real(label="Amount", help="How strongly it shows.", default=0.0, unit="%", low=0, high=2,
                           step=0.01, soft_low=0, soft_high=1),
            "size": Length(label="Size", help="How wide a grain is.", default=1.0, low=1, high=50, step=0.5,
                         soft_low=1, soft_high=10),
            "seed": Whole(label="Pattern", help="Another number strews it another way.", default=1.0, low=0,
                          high=9999),
        }
    )  # fmt: skip

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["amount"] == 0)

    def ready(self, settings: Values, space: Space) -> tuple[float, int, float32, Primaries]:
        return settings["size"], int(settings["seed"]), float32(0.1 * settings["amount"]), space.of

    def lay(self, ready: tuple[float, int, float32, Primaries], px: Planes, alpha: Plane, patch: Patch) -> None:
        size, seed, amount, of = ready
        _strew(px, alpha, grains(patch, size, seed), amount, of)


GRAIN = Grain()
