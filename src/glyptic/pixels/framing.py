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
from glyptic.pixels.compiled import Planes, Row, formula, kernel
from glyptic.pixels.resample import CORNERS, _carried, _overlap, _row_of

Numbers = NDArray[np.float64]
Colours = NDArray[float32]
Spots = NDArray[np.int64]
Rectangle = NDArray[np.int64]
ONE, TWO, HALF = float32(1), float32(2), float32(0.5)
LEAST = 1e-9
"""Weights that come to less count as nothing."""


class Crop(NamedTuple):
    """Where the cropped picture lies on the sheet, in pixels of the level: left, top, right, bottom."""

    left: float
    top: float
    right: float
    bottom: float


@formula
def _weight0(f: float) -> float:
    """The cubic kernel's weight of the first of four pixels, around a place that lies f behind the second's centre."""
    return ((-HALF * f + ONE) * f - HALF) * f


@formula
def _weight1(f: float) -> float:
    return ((ONE + HALF) * f - (TWO + HALF)) * f * f + ONE


@formula
def _weight2(f: float) -> float:
    return ((-(ONE + HALF) * f + TWO) * f + HALF) * f


@formula
def _weight3(f: float) -> float:
    return (HALF * f - HALF) * f * f


@formula
def _weights(f: float, out: Numbers) -> None:
    out[0], out[1], out[2], out[3] = _weight0(f), _weight1(f), _weight2(f), _weight3(f)


@formula
def _cubic_at(
    px: Planes, x0: int, y0: int, width: int, height: int, u: float, v: float, wx: Numbers, wy: Numbers, sums: Numbers
) -> float:
    """Weighted sums of the planes around (u, v), in pixels counted from their centres; returns the sum of weights that
    fall inside the picture. x0, y0: where the planes lie in it."""
    column, row = np.floor(u), np.floor(v)
    left, top = int(column) - 1, int(row) - 1
    _weights(u - column, wx)
    _weights(v - row, wy)
    total = 0.0
    for k in range(px.shape[0]):
        sums[k] = 0.0
    for i in range(max(0, -top), min(4, height - top)):
        for j in range(max(0, -left), min(4, width - left)):
            weight = wy[i] * wx[j]
            total += weight
            for k in range(px.shape[0]):
                sums[k] += weight * px[k, top - y0 + i, left - x0 + j]
    return total


@formula
def _row(flat: Row, first: int, a: float, b: float, c: float, d: float) -> float:
    """Four pixels side by side, weighted. Unsigned places need no look at whether they count from the end."""
    s = np.uint64(first)
    return a * flat[s] + b * flat[s + np.uint64(1)] + c * flat[s + np.uint64(2)] + d * flat[s + np.uint64(3)]


@formula
def _shares(at: int, low: float, high: float) -> float:
    """How much of the pixel at..at + 1 lies in low..high."""
    return max(0.0, min(at + 1.0, high) - max(float(at), low))


@formula
def _aim(
    h: Numbers, x: int, y: float, planes: Rectangle, size: Rectangle, spots: Spots, wx: Planes, wy: Planes
) -> None:
    """For a row of the sheet from (x, y) on: where the sixteen pixels around each place begin in the planes, −1 where
    some of them are not in the picture, or not in the planes, and their weights (4, n).

    planes: left, top, width and height of the planes in the picture; size: the picture's width and height. What is
    around the crop falls on the picture, too, but not on the planes.
    """
    for j in range(spots.shape[0]):
        across = x + j + 0.5
        near = 1.0 / (h[2, 0] * across + h[2, 1] * y + h[2, 2])
        u = (h[0, 0] * across + h[0, 1] * y + h[0, 2]) * near - 0.5
        v = (h[1, 0] * across + h[1, 1] * y + h[1, 2]) * near - 0.5
        column, row = np.floor(u), np.floor(v)
        f, g = float32(u - column), float32(v - row)
        wx[0, j], wx[1, j], wx[2, j], wx[3, j] = _weight0(f), _weight1(f), _weight2(f), _weight3(f)
        wy[0, j], wy[1, j], wy[2, j], wy[3, j] = _weight0(g), _weight1(g), _weight2(g), _weight3(g)
        inside = (column >= 1.0) & (row >= 1.0) & (column + 3.0 <= size[0]) & (row + 3.0 <= size[1])
        left, top = int(column) - 1 - planes[0], int(row) - 1 - planes[1]
        inside &= (left >= 0) & (top >= 0) & (left + 4 <= planes[2]) & (top + 4 <= planes[3])
        spots[j] = top * planes[2] + left if inside else -1


@kernel
def _frame_cubic(
    px: Planes, x0: int, y0: int, width: int, height: int, h: Numbers, crop: Numbers, outside: Colours,
    border: Colours, x: int, y: int, out: Planes,
) -> None:  # fmt: skip
    """The sheet from (x, y) on, by the cubic kernel. h: carries the sheet's pixels to the picture's."""
    at, sums, ax, ay = np.empty(2), np.empty(4), np.empty(4), np.empty(4)
    n, stride, plane = out.shape[2], px.shape[2], px.shape[1] * px.shape[2]
    flat = px.reshape(px.size)
    spots, wx, wy = np.empty(n, np.int64), np.empty((4, n), float32), np.empty((4, n), float32)
    planes, size = np.array([x0, y0, stride, px.shape[1]]), np.array([width, height])
    channels = px.shape[0] if stride >= 4 and px.shape[1] >= 4 else 0
    for i in range(out.shape[1]):
        deep = _shares(y + i, crop[1], crop[3])
        _aim(h, x, y + i + 0.5, planes, size, spots, wx, wy)
        for c in range(channels):
            for j in range(n):
                first = max(spots[j], 0) + c * plane
                a, b, d, e = wx[0, j], wx[1, j], wx[2, j], wx[3, j]
                value = wy[0, j] * _row(flat, first, a, b, d, e)
                value += wy[1, j] * _row(flat, first + stride, a, b, d, e)
                value += wy[2, j] * _row(flat, first + 2 * stride, a, b, d, e)
                out[c, i, j] = value + wy[3, j] * _row(flat, first + 3 * stride, a, b, d, e)
        for j in range(n):
            share = deep * _shares(x + j, crop[0], crop[2])
            if spots[j] >= 0 and share == 1.0:
                continue
            total = 0.0
            if share > 0.0:
                left, right = max(float(x + j), crop[0]), min(x + j + 1.0, crop[2])
                upper, lower = max(float(y + i), crop[1]), min(y + i + 1.0, crop[3])
                _carried(h, (left + right) * 0.5, (upper + lower) * 0.5, at)
                total = _cubic_at(px, x0, y0, width, height, at[0] - 0.5, at[1] - 0.5, ax, ay, sums)
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
                    _row_of(cx, cy, v, at)
                    first, last = max(at[0], -1.0), min(at[1], width + 1.0)
                    for u in range(max(int(np.floor(first)), 0), min(int(np.ceil(last)), width)):
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
