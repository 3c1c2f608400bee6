"""Outline: the area of a polygon, even-odd."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.masks.part import Drawn, misses
from glyptic.params import Polygon, Schema, Values
from glyptic.pixels.compiled import Plane, kernel
from glyptic.pixels.shapes import Patch

LINES = 256
"""Lines sampled across each row of pixels."""
SHARES = 1024
"""Whole-number shares of a pixel's width, so that sums along a row are exact."""


@kernel
def _fill(points: NDArray[np.float64], x0: int, y0: int, step: float, lines: int, shares: int, out: Plane) -> None:
    """Exact coverage along each of `lines` lines a row; whole numbers, so it does not depend on x0."""
    h, w = out.shape
    n = points.shape[0]
    crossings = np.empty(n, np.float64)
    active = np.empty(n, np.int64)
    area = np.zeros(w + 2, np.int64)
    for i in range(h):
        area[:] = 0
        top, bottom = (y0 + i) * step, (y0 + i + 1) * step
        near = 0
        for a in range(n):
            ya, yb = points[a, 1], points[a + 1 if a + 1 < n else 0, 1]
            if min(ya, yb) <= bottom and max(ya, yb) >= top:
                active[near] = a
                near += 1
        for line in range(lines):
            y = (y0 + i + (line + 0.5) / lines) * step
            count = 0
            for e in range(near):
                a = active[e]
                b = a + 1 if a + 1 < n else 0
                ya, yb = points[a, 1], points[b, 1]
                if (ya <= y) != (yb <= y):
                    x = points[a, 0] + (y - ya) / (yb - ya) * (points[b, 0] - points[a, 0])
                    k = count
                    while k > 0 and crossings[k - 1] > x:
                        crossings[k] = crossings[k - 1]
                        k -= 1
                    crossings[k] = x
                    count += 1
            for k in range(count):
                where = min(max(crossings[k] / step - x0, 0.0), float(w))
                place = int(np.floor(where * shares + 0.5))
                pixel = place // shares
                right = (pixel + 1) * shares - place
                sign = 1 if k % 2 == 0 else -1
                area[pixel] += sign * right
                area[pixel + 1] += sign * (shares - right)
        total = 0
        for j in range(w):
            total += area[j]
            out[i, j] = total / (shares * lines)


class Outline(Drawn):
    """Area coverage of the polygon: exact along 256 lines a pixel row, so well within 1/64."""

    name = "outline"
    title = "Outline"
    summary = "An area drawn around with straight or freehand lines."
    schema = Schema({"points": Polygon(label="Points", help="The corners, in order.")})

    def coverage(self, settings: Values, patch: Patch) -> Plane:
        out = np.empty(patch.shape, np.float32)
        points = np.array(settings["points"], np.float64)
        _fill(points, patch.rect.x, patch.rect.y, patch.step, LINES, SHARES, out)
        return out

    def known(self, settings: Values, patch: Patch) -> float | None:
        xs, ys = zip(*settings["points"], strict=True)
        return 0.0 if misses(patch, min(xs), min(ys), max(xs), max(ys)) else None


OUTLINE = Outline()
