"""Planes carried by a homography onto a sheet: the frame (computation.md, Quads).

Each pixel of the sheet takes the colour where the homography carries its centre, by the cubic kernel a = −0.5 (R. Keys
1981), or the average over its area as it is carried. Beyond the picture lies one colour, around the crop another.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.homography import Homography
from glyptic.base.rectangles import Rect
from glyptic.pixels.compiled import Planes, formula, kernel
from glyptic.pixels.resample import CORNERS, _carried, _cubic, _overlap

Numbers = NDArray[np.float64]
Colours = NDArray[float32]
LEAST = 1e-9
"""Weights that come to less count as nothing."""


class Crop(NamedTuple):
    """Where the cropped picture lies on the sheet, in pixels of the level: left, top, right, bottom."""

    left: float
    top: float
    right: float
    bottom: float


@formula
def _taps(at: float, first: int, weights: Numbers) -> None:
    """The four weights of the cubic kernel around a place, of the pixels from `first` on."""
    for k in range(4):
        weights[k] = _cubic(at - (first + k))


@formula
def _cubic_at(
    px: Planes, x0: int, y0: int, width: int, height: int, u: float, v: float, wx: Numbers, wy: Numbers, sums: Numbers
) -> float:
    """Weighted sums of the planes around (u, v), in pixels counted from their centres; returns the sum of weights that
    fall inside the picture. x0, y0: where the planes lie in it."""
    left, top = int(np.floor(u)) - 1, int(np.floor(v)) - 1
    _taps(u, left, wx)
    _taps(v, top, wy)
    total = 0.0
    for c in range(px.shape[0]):
        sums[c] = 0.0
    if left >= 0 and top >= 0 and left + 4 <= width and top + 4 <= height:
        for c in range(px.shape[0]):
            for k in range(4):
                row = px[c, top - y0 + k]
                at = left - x0
                sums[c] += wy[k] * (wx[0] * row[at] + wx[1] * row[at + 1] + wx[2] * row[at + 2] + wx[3] * row[at + 3])
        return 1.0
    for k in range(max(0, -top), min(4, height - top)):
        for n in range(max(0, -left), min(4, width - left)):
            weight = wy[k] * wx[n]
            total += weight
            for c in range(px.shape[0]):
                sums[c] += weight * px[c, top - y0 + k, left - x0 + n]
    return total


@kernel
def _frame_cubic(
    px: Planes, x0: int, y0: int, width: int, height: int, h: Numbers, crop: Numbers, outside: Colours,
    border: Colours, x: int, y: int, out: Planes,
) -> None:  # fmt: skip
    """The sheet from (x, y) on, by the cubic kernel. h: carries the sheet's pixels to the picture's."""
    at, sums, wx, wy = np.empty(2), np.empty(4), np.empty(4), np.empty(4)
    for i in range(out.shape[1]):
        upper, lower = max(float(y + i), crop[1]), min(y + i + 1.0, crop[3])
        for j in range(out.shape[2]):
            left, right = max(float(x + j), crop[0]), min(x + j + 1.0, crop[2])
            share = max(0.0, right - left) * max(0.0, lower - upper)
            total = 0.0
            if share > 0.0:
                _carried(h, (left + right) * 0.5, (upper + lower) * 0.5, at)
                total = _cubic_at(px, x0, y0, width, height, at[0] - 0.5, at[1] - 0.5, wx, wy, sums)
            _put(out, i, j, sums, total, share, outside, border)


@formula
def _put(
    out: Planes, i: int, j: int, sums: Numbers, total: float, share: float, outside: Colours, border: Colours
) -> None:
    """Write coverage · colour + (1 − coverage) · outside, and the border's share of the pixel."""
    cover = min(total, 1.0)
    for c in range(out.shape[0]):
        value = float(outside[c])
        if total > LEAST:
            value = cover * (sums[c] / total) + (1.0 - cover) * value
        if share < 1.0:
            value = share * value + (1.0 - share) * border[c]
        out[c, i, j] = value


@kernel
def _frame_average(
    px: Planes, x0: int, y0: int, width: int, height: int, h: Numbers, crop: Numbers, outside: Colours,
    border: Colours, x: int, y: int, out: Planes,
) -> None:  # fmt: skip
    """The sheet from (x, y) on, each pixel the mean of the picture over its area as h carries it."""
    at, sums = np.empty(2), np.empty(4)
    cx, cy = np.empty(4), np.empty(4)
    ax, ay = np.empty(CORNERS), np.empty(CORNERS)
    bx, by = np.empty(CORNERS), np.empty(CORNERS)
    for i in range(out.shape[1]):
        upper, lower = max(float(y + i), crop[1]), min(y + i + 1.0, crop[3])
        for j in range(out.shape[2]):
            left, right = max(float(x + j), crop[0]), min(x + j + 1.0, crop[2])
            share = max(0.0, right - left) * max(0.0, lower - upper)
            total = 0.0
            if share > 0.0:
                for corner in range(4):
                    _carried(h, right if corner in (1, 2) else left, lower if corner >= 2 else upper, at)
                    cx[corner], cy[corner] = at[0], at[1]
                area = abs((cx[2] - cx[0]) * (cy[3] - cy[1]) - (cx[3] - cx[1]) * (cy[2] - cy[0])) * 0.5
                for c in range(px.shape[0]):
                    sums[c] = 0.0
                for v in range(max(int(np.floor(cy.min())), 0), min(int(np.ceil(cy.max())), height)):
                    for u in range(max(int(np.floor(cx.min())), 0), min(int(np.ceil(cx.max())), width)):
                        weight = _overlap(cx, cy, u, v, ax, ay, bx, by) / area
                        total += weight
                        for c in range(px.shape[0]):
                            sums[c] += weight * px[c, v - y0, u - x0]
            _put(out, i, j, sums, total, share, outside, border)


def reached(rect: Rect, crop: Crop, onto: Homography) -> Rect:
    """The pixels of the picture that a rectangle of the sheet is made of; it may reach beyond the picture.

    onto: carries pixels of the sheet's level to pixels of the picture's.
    """
    left, top = max(rect.x, crop.left), max(rect.y, crop.top)
    right, bottom = min(rect.right, crop.right), min(rect.bottom, crop.bottom)
    if left >= right or top >= bottom:
        return Rect(0, 0, 0, 0)
    xs, ys = zip(*(onto.at(x, y) for x in (left, right) for y in (top, bottom)), strict=True)
    return Rect.covering(min(xs) - 2, min(ys) - 2, max(xs) + 2, max(ys) + 2)


def framed(
    px: Planes, at: Rect, bounds: Rect, onto: Homography, crop: Crop, colours: tuple[Colours, Colours], rect: Rect,
    averages: bool,
) -> Planes:  # fmt: skip
    """The sheet (c, h, w) over a rectangle of its level.

    px: the picture's planes over `at`, which holds all of `reached` that lies within its `bounds`. onto: carries pixels
    of the sheet's level to pixels of the picture's. colours: of what lies beyond the picture, and of the border, (c,)
    each. averages: whether each pixel is the mean over its area, else the cubic kernel's.
    """
    out = np.empty((len(colours[0]), rect.h, rect.w), float32)
    draw = _frame_average if averages else _frame_cubic
    matrix, box = np.array(onto.rows), np.array(crop, np.float64)
    draw(px, at.x, at.y, bounds.w, bounds.h, matrix, box, *colours, rect.x, rect.y, out)
    return out
