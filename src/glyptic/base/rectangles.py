"""Rectangles of whole pixels and the grid of tiles."""

from __future__ import annotations

from collections.abc import Iterator
from math import ceil, floor
from typing import NamedTuple

TILE = 256
"""Side of a tile in pixels of its level."""
SLACK = 1e-6
"""Pixels by which what is divided may lie beside a whole number and still count as on it."""


def step_of(level: float) -> float:
    """Full-size pixels to a pixel of a level, in one direction: 2^level. Whole levels are kept of every picture; those
    between are what a screen shows that is zoomed out by any other factor."""
    return float(2.0**level)


class Rect(NamedTuple):
    """Pixels x .. x+w-1, y .. y+h-1; w and h may be 0 (empty)."""

    x: int
    y: int
    w: int
    h: int

    @classmethod
    def covering(cls, left: float, top: float, right: float, bottom: float) -> Rect:
        """The smallest rectangle of whole pixels that holds the given bounds."""
        x, y = floor(left), floor(top)
        return cls(x, y, max(0, ceil(right) - x), max(0, ceil(bottom) - y))

    @property
    def right(self) -> int:
        return self.x + self.w

    @property
    def bottom(self) -> int:
        return self.y + self.h

    @property
    def empty(self) -> bool:
        return self.w <= 0 or self.h <= 0

    def grown(self, margin: int) -> Rect:
        return Rect(self.x - margin, self.y - margin, self.w + 2 * margin, self.h + 2 * margin)

    def meet(self, other: Rect) -> Rect:
        """The common part; empty (w or h 0) where there is none."""
        x, y = max(self.x, other.x), max(self.y, other.y)
        return Rect(x, y, max(0, min(self.right, other.right) - x), max(0, min(self.bottom, other.bottom) - y))

    def join(self, other: Rect) -> Rect:
        """The smallest rectangle that holds both."""
        if self.empty:
            return other
        if other.empty:
            return self
        x, y = min(self.x, other.x), min(self.y, other.y)
        return Rect(x, y, max(self.right, other.right) - x, max(self.bottom, other.bottom) - y)

    def scaled(self, by: int) -> Rect:
        """This rectangle on a picture so many times as large."""
        return Rect(self.x * by, self.y * by, self.w * by, self.h * by)

    def at_level(self, level: float) -> Rect:
        """This rectangle of full-size pixels grown outward to whole pixels of a level."""
        step = step_of(level)
        near, far = SLACK, -SLACK
        return Rect.covering(
            self.x / step + near, self.y / step + near, self.right / step + far, self.bottom / step + far
        )

    def from_level(self, level: float) -> Rect:
        """This rectangle of a level grown outward to whole pixels of full size."""
        step = step_of(level)
        near, far = SLACK, -SLACK
        return Rect.covering(
            self.x * step + near, self.y * step + near, self.right * step + far, self.bottom * step + far
        )

    def tiles(self, side: int = TILE) -> Iterator[tuple[int, int]]:
        """Column and row of every tile (of `side` pixels) the rectangle touches, row by row."""
        if self.empty:
            return
        for ty in range(self.y // side, (self.bottom - 1) // side + 1):
            for tx in range(self.x // side, (self.right - 1) // side + 1):
                yield tx, ty


def tile_rect(tx: int, ty: int) -> Rect:
    """The rectangle of a tile, not clipped to any picture."""
    return Rect(tx * TILE, ty * TILE, TILE, TILE)


def square_around(x: float, y: float, side: int) -> Rect:
    """The square of pixels around the one that holds a place."""
    return Rect(floor(x) - side // 2, floor(y) - side // 2, side, side)


class Canvas(NamedTuple):
    """The size of something drawn, in full-size pixels: a picture, or the sheet that comes out in the end."""

    width: int
    height: int

    def at(self, level: float) -> Rect:
        """All of it, at a level."""
        return Rect(0, 0, *level_size(self.width, self.height, level))

    @property
    def deepest(self) -> int:
        """The last level that is still at least SMALLEST_LEVEL pixels on its longer side."""
        level = 0
        while max(level_size(self.width, self.height, level + 1)) >= SMALLEST_LEVEL:
            level += 1
        return level

    def level_within(self, side: int) -> int:
        """The first level that is at most `side` pixels on its longer side, or the deepest there is."""
        level = 0
        while level < self.deepest and max(level_size(self.width, self.height, level)) > side:
            level += 1
        return level


SMALLEST_LEVEL = 64
"""Levels go down to about this many pixels on the longer side."""


def level_size(width: int, height: int, level: float) -> tuple[int, int]:
    """Width and height of level N: ceil(W/2^N), ceil(H/2^N), which is never nothing."""
    step = step_of(level)
    return max(1, ceil(width / step - SLACK)), max(1, ceil(height / step - SLACK))
