"""Edges and areas of a plane, for checks: steep places, what lies together, lines along them."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from glyptic.base.rectangles import Rect
from glyptic.checks.check import Path
from glyptic.pixels.compiled import Plane

Marks = NDArray[np.bool_]
WITHIN, MIDDLE = 0.8, 0.5


def smoothed(plane: Plane, sigma: float) -> Plane:
    return np.asarray(cv2.GaussianBlur(np.ascontiguousarray(plane), (0, 0), sigma), np.float32)


def steps(plane: Plane, across: int, sigma: float = 1.0) -> Plane:
    """By how much a plane changes over so many pixels, wherever it is steepest: its gradient times that."""
    smooth = smoothed(plane, sigma)
    gx, gy = (cv2.Sobel(smooth, cv2.CV_32F, *d, scale=0.125) for d in ((1, 0), (0, 1)))
    return np.asarray(np.hypot(gx, gy) * np.float32(across), np.float32)


def highest_near(plane: Plane, reach: int) -> Plane:
    """The highest value within so many pixels."""
    return np.asarray(cv2.dilate(plane, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)), np.float32)


def mean_near(plane: Plane, side: int) -> Plane:
    """The mean over a square."""
    return np.asarray(cv2.blur(np.ascontiguousarray(plane), (side, side)), np.float32)


def mean_where(plane: Plane, where: Marks, side: int) -> Plane:
    """The mean over a square of those pixels that count; 0 where none does."""
    counted = mean_near(where.astype(np.float32), side)
    return np.asarray(mean_near(np.where(where, plane, np.float32(0)), side) / np.maximum(counted, 1e-3), np.float32)


@dataclass(frozen=True)
class Area:
    """Marked pixels that lie together: where, how many, and lines around them."""

    rect: Rect
    inside: Marks
    pixels: int

    def path(self, size: int) -> Path:
        """Lines around it, in pixels so many times as small."""
        lines, _ = cv2.findContours(self.inside.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        smooth = (cv2.approxPolyDP(line, WITHIN, True)[:, 0] for line in lines)
        return tuple(
            tuple((size * (self.rect.x + float(x) + MIDDLE), size * (self.rect.y + float(y) + MIDDLE))
                  for x, y in (*line, line[0]))
            for line in smooth
        )  # fmt: skip


def areas(marks: Marks, joined: int, least: int) -> Iterator[Area]:
    """What is marked, those that lie within so many pixels of each other together; none of fewer pixels than least."""
    kernel = np.ones((joined, joined), np.uint8)
    near = cv2.dilate(marks.astype(np.uint8), kernel) if joined > 1 else marks.astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(near, connectivity=8)
    for i in range(1, count):
        x, y, w, h = (int(stats[i, k]) for k in (0, 1, 2, 3))
        inside = (labels[y : y + h, x : x + w] == i) & marks[y : y + h, x : x + w]
        pixels = int(inside.sum())
        if pixels >= least:
            rows, columns = np.flatnonzero(inside.any(1)), np.flatnonzero(inside.any(0))
            top, left = int(rows[0]), int(columns[0])
            kept = inside[top : rows[-1] + 1, left : columns[-1] + 1]
            yield Area(Rect(x + left, y + top, kept.shape[1], kept.shape[0]), kept, pixels)
