"""A picture carried by a homography, sampled for the pixels of a patch; a placed one is scaled and turned about its
centre.

Enlarging and turning sample the picture with the cubic kernel a = −0.5 (R. Keys 1981); reducing averages it over
the area of each pixel, exactly. Both work on premultiplied values; outside the picture is transparent.
"""

from __future__ import annotations

from math import floor, log2, sqrt

import numpy as np
from numpy.typing import NDArray

from glyptic.base.homography import Homography, Quad, area_of
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.shapes import Patch

Matrix = NDArray[np.float64]
"""(3, 3)."""
CORNERS = 16
"""Room for the corners of a square clipped by a square (8 at most)."""


@formula
def _cubic(t: float) -> float:
    t = abs(t)
    if t <= 1.0:
        return (1.5 * t - 2.5) * t * t + 1.0
    if t < 2.0:
        return ((-0.5 * t + 2.5) * t - 4.0) * t + 2.0
    return 0.0


@formula
def _carried(h: Matrix, x: float, y: float, out: NDArray[np.float64]) -> bool:
    """Where a homography carries a point; whether that lies before the horizon."""
    far = h[2, 0] * x + h[2, 1] * y + h[2, 2]
    out[0] = (h[0, 0] * x + h[0, 1] * y + h[0, 2]) / far
    out[1] = (h[1, 0] * x + h[1, 1] * y + h[1, 2]) / far
    return bool(far > 0.0)


@formula
def _near(at: NDArray[np.float64], width: int, height: int) -> bool:
    """Whether a place lies in a picture, or so near that its kernel reaches it."""
    return bool(-2.0 < at[0] < width + 2.0 and -2.0 < at[1] < height + 2.0)


@kernel
def _sample(
    codes: NDArray[np.uint16], alpha: NDArray[np.uint16], has_alpha: bool, matrix: Matrix, out: Planes, cover: Plane
) -> None:
    """The picture where the matrix carries the centre of each pixel (j + 0.5, i + 0.5)."""
    h, w = codes.shape[1], codes.shape[2]
    at = np.empty(2)
    for i in range(out.shape[1]):
        for j in range(out.shape[2]):
            total, r, g, b = 0.0, 0.0, 0.0, 0.0
            if not _carried(matrix, j + 0.5, i + 0.5, at) or not _near(at, w, h):
                _store(out, cover, i, j, total, r, g, b)
                continue
            u, v = at[0] - 0.5, at[1] - 0.5
            left, top = int(np.floor(u)) - 1, int(np.floor(v)) - 1
            for y in range(max(top, 0), min(top + 4, h)):
                wy = _cubic(v - y)
                for x in range(max(left, 0), min(left + 4, w)):
                    weight = wy * _cubic(u - x)
                    if has_alpha:
                        weight *= alpha[0, y, x] / 65535.0
                    total += weight
                    r += weight * codes[0, y, x]
                    g += weight * codes[1, y, x]
                    b += weight * codes[2, y, x]
            _store(out, cover, i, j, total, r, g, b)


@formula
def _store(out: Planes, cover: Plane, i: int, j: int, total: float, r: float, g: float, b: float) -> None:
    """Write premultiplied sums as colour and coverage."""
    if total > 1e-9:
        out[0, i, j] = r / (total * 65535.0)
        out[1, i, j] = g / (total * 65535.0)
        out[2, i, j] = b / (total * 65535.0)
        cover[i, j] = min(total, 1.0)
    else:
        out[0, i, j] = 0.0
        out[1, i, j] = 0.0
        out[2, i, j] = 0.0
        cover[i, j] = 0.0


@formula
def _clip(
    xs: NDArray[np.float64], ys: NDArray[np.float64], n: int, horizontal: bool, limit: float, sign: float,
    out_x: NDArray[np.float64], out_y: NDArray[np.float64],
) -> int:  # fmt: skip
    """Keep what lies on one side of an axis-parallel line (Sutherland and Hodgman 1974)."""
    m = 0
    for a in range(n):
        b = (a + 1) % n
        da = sign * ((xs[a] if horizontal else ys[a]) - limit)
        db = sign * ((xs[b] if horizontal else ys[b]) - limit)
        if da <= 0:
            out_x[m] = xs[a]
            out_y[m] = ys[a]
            m += 1
        if da * db < 0:
            t = da / (da - db)
            out_x[m] = xs[a] + t * (xs[b] - xs[a])
            out_y[m] = ys[a] + t * (ys[b] - ys[a])
            m += 1
    return m


@formula
def _overlap(
    cx: NDArray[np.float64], cy: NDArray[np.float64], x: int, y: int,
    ax: NDArray[np.float64], ay: NDArray[np.float64], bx: NDArray[np.float64], by: NDArray[np.float64],
) -> float:  # fmt: skip
    """Area common to the quadrilateral cx, cy and the pixel x..x+1, y..y+1."""
    for a in range(4):
        ax[a] = cx[a]
        ay[a] = cy[a]
    n = _clip(ax, ay, 4, True, x + 1.0, 1.0, bx, by)
    n = _clip(bx, by, n, True, float(x), -1.0, ax, ay)
    n = _clip(ax, ay, n, False, y + 1.0, 1.0, bx, by)
    n = _clip(bx, by, n, False, float(y), -1.0, ax, ay)
    area = 0.0
    for a in range(n):
        b = (a + 1) % n
        area += ax[a] * ay[b] - ax[b] * ay[a]
    return abs(area) * 0.5


@formula
def _row_of(cx: NDArray[np.float64], cy: NDArray[np.float64], y: int, out: NDArray[np.float64]) -> None:
    """From where to where across a quadrilateral lies within the row of pixels y..y + 1."""
    low, high = np.inf, -np.inf
    for a in range(4):
        b = (a + 1) % 4
        upper, lower = min(cy[a], cy[b]), max(cy[a], cy[b])
        if upper > y + 1.0 or lower < y:
            continue
        first, last = cx[a], cx[b]
        if upper < lower:
            slope = (cx[b] - cx[a]) / (cy[b] - cy[a])
            first = cx[a] + (max(float(y), upper) - cy[a]) * slope
            last = cx[a] + (min(y + 1.0, lower) - cy[a]) * slope
        low, high = min(low, first, last), max(high, first, last)
    out[0], out[1] = low, high


@kernel
def _average(
    codes: NDArray[np.uint16], alpha: NDArray[np.uint16], has_alpha: bool, matrix: Matrix, out: Planes, cover: Plane
) -> None:
    """The mean of the picture over each pixel as the matrix carries it."""
    h, w = codes.shape[1], codes.shape[2]
    at = np.empty(2)
    cx, cy = np.empty(4), np.empty(4)
    ax, ay = np.empty(CORNERS), np.empty(CORNERS)
    bx, by = np.empty(CORNERS), np.empty(CORNERS)
    for i in range(out.shape[1]):
        for j in range(out.shape[2]):
            total, r, g, b = 0.0, 0.0, 0.0, 0.0
            before = True
            for corner in range(4):
                x, y = j + (1.0 if corner in (1, 2) else 0.0), i + (1.0 if corner >= 2 else 0.0)
                before &= _carried(matrix, x, y, at)
                cx[corner], cy[corner] = at[0], at[1]
            if not before or cx.max() <= 0.0 or cy.max() <= 0.0 or cx.min() >= w or cy.min() >= h:
                _store(out, cover, i, j, total, r, g, b)
                continue
            pixel_area = abs((cx[2] - cx[0]) * (cy[3] - cy[1]) - (cx[3] - cx[1]) * (cy[2] - cy[0])) * 0.5
            for y in range(max(int(np.floor(cy.min())), 0), min(int(np.ceil(cy.max())), h)):
                _row_of(cx, cy, y, at)
                for x in range(max(int(np.floor(max(at[0], -1.0))), 0), min(int(np.ceil(min(at[1], w + 1.0))), w)):
                    weight = _overlap(cx, cy, x, y, ax, ay, bx, by) / pixel_area
                    if has_alpha:
                        weight *= alpha[0, y, x] / 65535.0
                    total += weight
                    r += weight * codes[0, y, x]
                    g += weight * codes[1, y, x]
                    b += weight * codes[2, y, x]
            _store(out, cover, i, j, total, r, g, b)


def sampled(picture: Picture, patch: Patch, onto: Homography, reduces: float) -> tuple[Planes, Plane]:
    """Colour (3, h, w) and coverage (h, w) of a picture over a patch.

    onto: carries full-size pixels of the patch's canvas to full-size pixels of the picture. reduces: how many pixels of
    the picture a full-size pixel takes in across, on the whole; above 1 the picture is averaged. At level N it is read
    from its own level where it would be reduced by a power of two or more.
    """
    per_pixel = reduces * patch.step
    level = min(floor(patch.level), max(0, floor(log2(per_pixel)))) if per_pixel > 1 else 0
    codes = picture.colour.codes(level)
    alpha = picture.alpha.codes(level) if picture.alpha is not None else codes
    block = float(1 << level)
    step = patch.step
    from_patch = Homography.affine(step, 0.0, patch.rect.x * step, 0.0, step, patch.rect.y * step)
    to_level = Homography.affine(1 / block, 0.0, 0.0, 0.0, 1 / block, 0.0)
    matrix = np.array(to_level.after(onto.after(from_patch)).rows)
    out = np.empty((3, *patch.shape), np.float32)
    cover = np.empty(patch.shape, np.float32)
    draw = _average if per_pixel / block > 1 + 1e-9 else _sample
    draw(codes, alpha, picture.alpha is not None, matrix, out, cover)
    return out, cover


def place(
    picture: Picture, patch: Patch, centre: tuple[float, float], scale: float, rotation: float
) -> tuple[Planes, Plane]:
    """Colour (3, h, w) and coverage (h, w) of a picture placed over a patch.

    centre: where the picture's centre lies, in full-size pixels of the base; rotation in degrees clockwise.
    """
    return sampled(picture, patch, turned_onto(picture, centre, scale, rotation), 1 / scale)


def turned_onto(picture: Picture, centre: tuple[float, float], scale: float, rotation: float) -> Homography:
    """Carries full-size pixels of the base to those of a picture that is scaled and turned about its centre."""
    turn = np.deg2rad(rotation)
    cos, sin = float(np.cos(turn)) / scale, float(np.sin(turn)) / scale
    x0 = picture.width / 2 - centre[0] * cos - centre[1] * sin
    y0 = picture.height / 2 + centre[0] * sin - centre[1] * cos
    return Homography.affine(cos, sin, x0, -sin, cos, y0)


def place_by_corners(picture: Picture, patch: Patch, corners: Quad) -> tuple[Planes, Plane]:
    """As `place`, of a picture whose top left, top right, bottom right and bottom left corners lie at these places, in
    full-size pixels of the base."""
    onto = Homography.onto(corners, picture.width, picture.height).inverse.facing(*corners[0])
    reduces = sqrt(picture.width * picture.height / area_of(corners))
    return sampled(picture, patch, onto, reduces)
