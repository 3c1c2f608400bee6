"""Pictures at every level: 16-bit planes, each level the mean of level 0, rounded once."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from math import floor
from threading import Lock

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.rectangles import Canvas, Rect, level_size, step_of
from glyptic.pixels.areas import Areas, Codes
from glyptic.pixels.compiled import Planes, kernel
from glyptic.pixels.spaces import SRGB, Space

HIGHEST = float32(65535)


@kernel
def _box_means(codes: Codes, k: int, out: Codes) -> None:
    h, w = codes.shape[1], codes.shape[2]
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            bottom = min(h, (i + 1) * k)
            for j in range(out.shape[2]):
                right = min(w, (j + 1) * k)
                total = np.uint64(0)
                for y in range(i * k, bottom):
                    for x in range(j * k, right):
                        total += np.uint64(codes[c, y, x])
                count = np.uint64((bottom - i * k) * (right - j * k))
                out[c, i, j] = (total * np.uint64(2) + count) // (count * np.uint64(2))


@kernel
def _values(codes: Codes, x0: int, y0: int, out: Planes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            line = codes[c, y0 + i, x0 : x0 + out.shape[2]]
            for j in range(out.shape[2]):
                out[c, i, j] = float32(line[j]) / HIGHEST


def reduced(codes: Codes, level: int) -> Codes:
    """Level N of a picture: the mean of the pixels that exist in each block of 2^N, rounded half up once."""
    w, h = level_size(codes.shape[2], codes.shape[1], level)
    out = np.empty((codes.shape[0], h, w), np.uint16)
    _box_means(codes, 1 << level, out)
    return out


@kernel
def _sums_of_four(finer: NDArray[np.unsignedinteger], out: NDArray[np.uint32]) -> None:
    """Sums over blocks of two by two, of those pixels that exist."""
    h, w = finer.shape[1], finer.shape[2]
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            top, bottom = finer[c, 2 * i], finer[c, min(2 * i + 1, h - 1)]
            has_bottom = np.uint32(1 if 2 * i + 1 < h else 0)
            for j in range(w // 2):
                below = np.uint32(bottom[2 * j]) + np.uint32(bottom[2 * j + 1])
                out[c, i, j] = np.uint32(top[2 * j]) + np.uint32(top[2 * j + 1]) + has_bottom * below
            if w % 2:
                out[c, i, w // 2] = np.uint32(top[w - 1]) + has_bottom * np.uint32(bottom[w - 1])


@kernel
def _means(sums: NDArray[np.uint32], k: int, height: int, width: int, out: Codes) -> None:
    for c in range(out.shape[0]):
        for i in range(out.shape[1]):
            rows = min(k, height - i * k)
            for j in range(out.shape[2]):
                count = np.uint64(rows * min(k, width - j * k))
                out[c, i, j] = (np.uint64(sums[c, i, j]) * np.uint64(2) + count) // (count * np.uint64(2))


DEEPEST_SUMMED = 8
"""Sums of 2^16 codes are the largest that 32 bits hold."""


def every_level(codes: Codes, deepest: int) -> Iterator[Codes]:
    """Levels 0 to `deepest`, each as `reduced` gives it, but the picture is gone over once."""
    channels, height, width = codes.shape
    yield codes
    finer: NDArray[np.unsignedinteger] = codes
    for level in range(1, deepest + 1):
        if level > DEEPEST_SUMMED:
            yield reduced(codes, level)
            continue
        w, h = level_size(width, height, level)
        sums = np.empty((channels, h, w), np.uint32)
        _sums_of_four(finer, sums)
        out = np.empty((channels, h, w), np.uint16)
        _means(sums, 1 << level, height, width, out)
        finer = sums
        yield out


@dataclass(frozen=True)
class Pyramid:
    """A picture of 1 or 3 channels at any level; levels are made when first asked for, or given ready-made."""

    full: Codes
    ready: dict[int, Codes] = field(default_factory=dict)
    _lock: Lock = field(default_factory=Lock, repr=False, compare=False)

    @property
    def width(self) -> int:
        return int(self.full.shape[2])

    @property
    def height(self) -> int:
        return int(self.full.shape[1])

    def codes(self, level: int) -> Codes:
        """(channels, ceil(H/2^N), ceil(W/2^N)) codes of a level."""
        if level == 0:
            return self.full
        with self._lock:
            if level not in self.ready:
                self.ready[level] = reduced(self.full, level)
            return self.ready[level]

    def interleaved(self, rect: Rect, level: int) -> Codes:
        """The codes (h, w, 3) of a rectangle that lies in the level."""
        part = self.codes(level)[:, rect.y : rect.bottom, rect.x : rect.right]
        return np.moveaxis(part if len(part) == 3 else np.repeat(part, 3, 0), 0, 2)

    def _areas(self, rect: Rect, level: float) -> tuple[Areas, Codes]:
        """What gathers a rectangle of a level between whole ones, and a whole level that is at least twice as fine."""
        finer = max(0, floor(level) - 1)
        scale = step_of(finer)
        areas = Areas(rect, step_of(level - finer), (self.width / scale, self.height / scale), len(self.full))
        return areas, self.codes(finer)

    def behind(self, rect: Rect, level: float) -> Codes:
        """The codes, of a whole level, that a rectangle of any level is made of."""
        if level == int(level):
            return self.codes(int(level))[:, rect.y : rect.bottom, rect.x : rect.right]
        areas, codes = self._areas(rect, level)
        part = areas.source
        return codes[:, part.y : part.bottom, part.x : part.right]

    def read(self, rect: Rect, level: float) -> Planes:
        """The values 0..1 of a rectangle that lies in the level."""
        width, height = level_size(self.width, self.height, level)
        if rect.x < 0 or rect.y < 0 or rect.right > width or rect.bottom > height:
            raise ValueError(f"{rect} does not lie in a level of {width} x {height}")
        if level != int(level):
            areas, codes = self._areas(rect, level)
            areas.add(codes, Rect(0, 0, codes.shape[2], codes.shape[1]))
            return areas.planes()
        out = np.empty((len(self.full), rect.h, rect.w), np.float32)
        _values(self.codes(int(level)), rect.x, rect.y, out)
        return out


@dataclass(frozen=True)
class Picture:
    """A decoded picture: three channels in a working space, its alpha (or None), and its content key."""

    colour: Pyramid
    key: bytes
    alpha: Pyramid | None = None
    space: Space = SRGB

    @property
    def width(self) -> int:
        return self.colour.width

    @property
    def height(self) -> int:
        return self.colour.height

    @property
    def canvas(self) -> Canvas:
        return Canvas(self.width, self.height)

    @cached_property
    def is_grey(self) -> bool:
        """Whether all channels are one and the same plane."""
        full = self.colour.full
        return len(full) == 1 or bool(np.array_equal(full[0], full[1]) and np.array_equal(full[0], full[2]))
