"""The greatest value within a disc around each pixel: what grows an area by so many pixels.

A disc of radius r is a stack of rows of half width floor(√(r² − dy²)); the greatest value along a row is widened a
pixel at a time, so the whole costs about three steps for each pixel of the radius. A radius between two whole ones lies
between their results.
"""

from __future__ import annotations

from math import ceil, floor

import numpy as np

from glyptic.pixels.compiled import Plane, kernel


@kernel
def _widest(plane: Plane, radius: int, out: Plane) -> None:
    """The greatest value within a disc. plane: (h + 2 radius, w + 2 radius); out: (h, w)."""
    h, w = out.shape
    wide = plane.copy()
    next_wide = np.empty_like(plane)
    columns = plane.shape[1]
    out[:] = plane[radius : radius + h, radius : radius + w]
    for half in range(radius + 1):
        for dy in range(-radius, radius + 1):
            if int(np.floor(np.sqrt(float(radius * radius - dy * dy)))) != half:
                continue
            for i in range(h):
                line, row = wide[i + radius + dy, radius : radius + w], out[i]
                for j in range(w):
                    row[j] = max(row[j], line[j])
        if half == radius:
            break
        for i in range(plane.shape[0]):
            line, row = wide[i], next_wide[i]
            row[0], row[columns - 1] = line[0], line[columns - 1]
            if half == 0:
                for j in range(1, columns - 1):
                    row[j] = max(line[j - 1], line[j], line[j + 1])
            else:
                for j in range(1, columns - 1):
                    row[j] = max(line[j - 1], line[j + 1])
        wide, next_wide = next_wide, wide


def reach(radius: float) -> int:
    """How many pixels around itself a pixel looks."""
    return ceil(abs(radius))


def widest(plane: Plane, radius: float) -> Plane:
    """The greatest value within a disc around each pixel.

    plane: (h + 2 reach, w + 2 reach); the result is (h, w). radius: 0 or more pixels.
    """
    around, whole = reach(radius), floor(radius)
    height, width = plane.shape[0] - 2 * around, plane.shape[1] - 2 * around
    out = np.empty((height, width), np.float32)
    trimmed = around - whole
    inner = plane[trimmed : plane.shape[0] - trimmed, trimmed : plane.shape[1] - trimmed]
    _widest(np.ascontiguousarray(inner), whole, out)
    if around > whole:
        more = np.empty_like(out)
        _widest(np.ascontiguousarray(plane), around, more)
        out += np.float32(radius - whole) * (more - out)
    return out
