"""Regions: areas found by a picture's edges, at a reduced level, and brought to full size along their edge.

Steepness is how fast CIELAB changes from pixel to pixel after a small Gaussian. Where it is low, pixels belong
together; areas that belong together and are touched by a scribble are taken, what is steep between them is divided by
a watershed of the steepness (F. Meyer, Topographic distance and watershed lines, 1994; scikit-image). Towards full size
the edge is found anew at each finer level, within a band of a few pixels, and softened at last by a guided filter
(K. He, J. Sun, X. Tang, 2010) with the picture's tone as guide.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray
from skimage.segmentation import watershed

from glyptic.base.rectangles import Rect, level_size
from glyptic.base.threads import allowed
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.spaces import SRGB, carried

Area = NDArray[np.uint8]
"""(h, w): 1 inside, 0 outside; or codes 0..255 of a grey picture."""
Steepness = NDArray[np.float32]

COARSE_SIDE = 800
"""The longer side of the level an area is looked for at, at the most."""
SOFTEST, HARDEST = 0.3, 6.0
"""Steepness (CIELAB units a pixel of the coarse level) that stops an area at edge strength 0 and at 1."""
QUIET = 0.2
"""The steepness a fifth of a picture is below, at most, where its grain is fine; with coarser grain the limits rise."""
LEAST_SHARE = 0.003
"""Even areas larger than this share of the picture, that no scribble touches, are something else."""
BAND = 5
"""Pixels on either side of an edge within which it is found anew at the next finer level."""
MARGIN = 12
SOFT_WINDOW, SOFT_EDGE = 7, 0.02
"""The guided filter's window in pixels, and the difference of tone that counts as an edge."""
MOST_SHARPENED = 6_500_000
"""The most pixels of a level at which an edge is found by the watershed; beyond, the guided filter is enough."""
CLEAR = 7
"""Pixels that what is surely not the backdrop keeps away from it: an edge lies between."""
BLOCK = 128
"""Side in pixels of the blocks in which an edge is worked on."""
THREADS = 2
LEAST_BORDER, NEAR_COLOUR = 0.02, 30.0
"""A part of the backdrop touches at least this share of the border, and its colour is this near in CIELAB."""
SMOOTH = 1.0
INSIDE, OUTSIDE = 1, 2
COLOURS = 3
SQUARE = np.ones((3, 3), np.uint8)
DISC = np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (9, 9)), np.uint8)


class Scribble(NamedTuple):
    """A line drawn on the picture. points: [[x, y], ...] and size in full-size pixels."""

    points: tuple[tuple[float, float], ...]
    size: float
    belongs: bool


def _colours(picture: Picture, rect: Rect, level: int) -> NDArray[np.uint8]:
    """(h, w, 3) codes of 8 bits, of sRGB, which is what OpenCV takes colours for."""
    planes = np.clip(picture.colour.read(rect, level), 0, 1)
    if len(planes) == COLOURS and picture.space is not SRGB:
        planes = np.clip(carried(planes.astype(np.float64), picture.space, SRGB), 0, 1).astype(np.float32)
    codes = np.ascontiguousarray(np.moveaxis(planes * 255 + 0.5, 0, 2).astype(np.uint8))
    return np.repeat(codes, 3, axis=2) if codes.shape[2] == 1 else codes


def _lab(codes: NDArray[np.uint8]) -> NDArray[np.float32]:
    smooth = cv2.GaussianBlur(codes, (0, 0), 1.0).astype(np.float32) / 255
    return np.asarray(cv2.cvtColor(smooth, cv2.COLOR_RGB2LAB), np.float32)


def _steepness(lab: NDArray[np.float32]) -> Steepness:
    total = np.zeros(lab.shape[:2], np.float32)
    for dx, dy in ((1, 0), (0, 1)):
        slope = cv2.Sobel(lab, cv2.CV_32F, dx, dy, scale=0.125)
        total += (slope * slope).sum(2)
    return np.sqrt(total)


def coarse_level(width: int, height: int) -> int:
    """The level an area is looked for at."""
    level = 0
    while max(level_size(width, height, level)) > COARSE_SIDE:
        level += 1
    return level


def _drawn(scribbles: Iterable[Scribble], shape: tuple[int, ...], step: int) -> NDArray[np.bool_]:
    """The pixels of a level that scribbles cover."""
    out = np.zeros(shape[:2], np.uint8)
    for scribble in scribbles:
        places = np.round((np.array(scribble.points, np.float64) / step - 0.5) * 16)
        line = np.clip(places, -(2**20), 2**20).astype(np.int32).reshape(-1, 1, 2)
        width = max(1, round(scribble.size / step))
        cv2.polylines(out, [np.concatenate([line, line[-1:]])], False, 1, width, cv2.LINE_8, 4)
    return out > 0


def _flooded(steepness: Steepness, markers: NDArray[np.int32]) -> Area:
    """What the watershed gives to the markers INSIDE; only what has no marker, and its rim, is gone through."""
    codes = np.clip(steepness * 24, 0, 65535).astype(np.uint16)
    open_ones = (markers == 0).astype(np.uint8)
    near = cv2.dilate(open_ones, SQUARE) > 0
    flooded = watershed(codes, np.where(near, markers, 0), mask=near)  # type: ignore[no-untyped-call]
    return np.asarray(np.where(open_ones, flooded, markers) == INSIDE, np.uint8)


def grown(picture: Picture, scribbles: list[Scribble], edge: float, start: Area | None = None) -> Area:
    """The area (at the coarse level) that scribbles belong to. edge: 0..1, how strong an edge must be to stop it.
    start: an area of the level that counts as drawn on already."""
    level = coarse_level(picture.width, picture.height)
    rect = Rect(0, 0, *level_size(picture.width, picture.height, level))
    steepness = _steepness(_lab(_colours(picture, rect, level)))
    yes = _drawn((s for s in scribbles if s.belongs), steepness.shape, 1 << level)
    no = _drawn((s for s in scribbles if not s.belongs), steepness.shape, 1 << level)
    if start is not None:
        yes |= cv2.erode(start, SQUARE, iterations=2).astype(bool) & ~no
    if not yes.any():
        return np.zeros(steepness.shape, np.uint8)
    noise = max(1.0, float(np.percentile(steepness, 20)) / QUIET)
    limit = noise * SOFTEST * (HARDEST / SOFTEST) ** edge
    even = cv2.morphologyEx((steepness < limit).astype(np.uint8), cv2.MORPH_OPEN, SQUARE)
    even[yes | no] = 1
    count, labels, found, _ = cv2.connectedComponentsWithStats(even, connectivity=4)
    role = np.zeros(count, np.int32)
    role[found[:, cv2.CC_STAT_AREA] > LEAST_SHARE * steepness.size] = OUTSIDE
    in_yes, in_no = np.unique(labels[yes]), np.unique(labels[no])
    role[in_no], role[in_yes] = OUTSIDE, INSIDE
    role[np.intersect1d(in_yes, in_no)] = 0
    role[0] = 0
    markers = role[labels]
    markers[yes], markers[no] = INSIDE, OUTSIDE
    if start is not None:
        markers[(start == 0) & (markers == 0)] = OUTSIDE
    return _smoothed(_flooded(steepness, markers))


def _smoothed(area: Area) -> Area:
    """Without specks, and with a calm edge."""
    return np.asarray(cv2.medianBlur(area, 5), np.uint8)


def backdrop(picture: Picture) -> Area:
    """The likely backdrop at the coarse level: what is smooth and connected to the picture's border."""
    level = coarse_level(picture.width, picture.height)
    rect = Rect(0, 0, *level_size(picture.width, picture.height, level))
    lab = _lab(_colours(picture, rect, level))
    steepness = _steepness(lab)
    limit = max(SMOOTH, float(np.percentile(steepness, 60)))
    even = cv2.erode((steepness < limit).astype(np.uint8), SQUARE)
    count, labels, found, _ = cv2.connectedComponentsWithStats(even, connectivity=4)
    border = np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])
    touching = np.bincount(border, minlength=count)
    touching[0] = 0
    if not touching.any():
        return np.zeros(steepness.shape, np.uint8)
    main = int(np.argmax(touching * found[:, cv2.CC_STAT_AREA].astype(np.float64)))
    colour = np.median(lab[labels == main], axis=0)
    role = np.zeros(count, np.int32)
    role[found[:, cv2.CC_STAT_AREA] > LEAST_SHARE * steepness.size] = OUTSIDE
    for one in np.flatnonzero(touching > LEAST_BORDER * len(border)):
        near = np.linalg.norm(np.median(lab[labels == one], axis=0) - colour) < NEAR_COLOUR
        role[one] = INSIDE if near or one == main else OUTSIDE
    rest = 1 - (role == INSIDE)[labels].astype(np.uint8)
    rest = cv2.erode(cv2.morphologyEx(rest, cv2.MORPH_OPEN, DISC), SQUARE, iterations=CLEAR)
    markers = role[labels]
    _, others, sizes, _ = cv2.connectedComponentsWithStats(rest, connectivity=4)
    large = np.flatnonzero(sizes[:, cv2.CC_STAT_AREA] > LEAST_SHARE * steepness.size)
    markers[np.isin(others, large[large > 0]) & (markers == 0)] = OUTSIDE
    return _without_thin_holes(_smoothed(_flooded(steepness, markers)))


def _without_thin_holes(area: Area) -> Area:
    """Holes that are nowhere as wide as DISC filled: the edges of soft shadows are such."""
    count, labels = cv2.connectedComponents(1 - area, connectivity=8)
    wide = np.unique(labels[cv2.morphologyEx(1 - area, cv2.MORPH_OPEN, DISC) > 0])
    stays = np.zeros(count, np.uint8)
    stays[wide[wide > 0]] = 1
    return np.asarray(1 - stays[labels], np.uint8)


def _blocks(width: int, height: int) -> list[Rect]:
    bounds = Rect(0, 0, width, height)
    return [Rect(x * BLOCK, y * BLOCK, BLOCK, BLOCK).meet(bounds) for x, y in bounds.tiles(BLOCK)]


def _in_blocks(area: Area, margin: int, work: Callable[[Rect, Area], Area]) -> Area:
    """An area with every block that its edge runs through made anew by `work(wide, area there)`, which gives the
    pixels of `wide`: the block and a margin around it within the picture."""
    out = area.copy()
    height, width = area.shape
    bounds = Rect(0, 0, width, height)

    def one(block: Rect) -> None:
        wide = block.grown(margin).meet(bounds)
        there = area[wide.y : wide.bottom, wide.x : wide.right]
        if not (there != there[0, 0]).any():
            return
        made = work(wide, np.ascontiguousarray(there))
        y, x = block.y - wide.y, block.x - wide.x
        out[block.y : block.bottom, block.x : block.right] = made[y : y + block.h, x : x + block.w]

    with ThreadPoolExecutor(allowed(THREADS)) as pool:
        list(pool.map(one, _blocks(width, height)))
    return out


def _sharper(picture: Picture, area: Area, level: int, band: int) -> Area:
    """The edge of an area of a level found anew within `band` pixels of where it is."""

    def work(wide: Rect, there: Area) -> Area:
        markers = np.zeros(there.shape, np.int32)
        markers[cv2.erode(there, SQUARE, iterations=band, borderType=cv2.BORDER_REPLICATE) > 0] = INSIDE
        markers[cv2.erode(1 - there, SQUARE, iterations=band, borderType=cv2.BORDER_REPLICATE) > 0] = OUTSIDE
        return _flooded(_steepness(_lab(_colours(picture, wide, level))), markers)

    return _in_blocks(area, MARGIN + band, work)


def _softened(picture: Picture, area: Area) -> Area:
    """A grey picture (codes 0..255 at full size) with its edges moved and softened as the picture's own are."""

    def mean(plane: NDArray[Any]) -> NDArray[np.float32]:
        window = (SOFT_WINDOW, SOFT_WINDOW)
        return np.asarray(cv2.boxFilter(plane, -1, window, borderType=cv2.BORDER_REFLECT), np.float32)

    def work(wide: Rect, there: Area) -> Area:
        guide = cv2.cvtColor(_colours(picture, wide, 0), cv2.COLOR_RGB2GRAY).astype(np.float32) / 255
        plane = there.astype(np.float32) / 255
        mean_g, mean_p = mean(guide), mean(plane)
        spread = mean(guide * guide) - mean_g * mean_g
        a = (mean(guide * plane) - mean_g * mean_p) / (spread + SOFT_EDGE * SOFT_EDGE)
        b = mean_p - a * mean_g
        found = np.clip(mean(a) * guide + mean(b), 0, 1)
        return np.asarray(found * 255 + 0.5, np.uint8)

    return _in_blocks(area, MARGIN, work)


def at_full_size(picture: Picture, area: Area, level: int) -> Area:
    """Codes 0..255 (height, width) of an area of a level, its edge found anew at each finer one, or at full size."""
    if level == 0:
        area = _sharper(picture, area, 0, BAND)
    while level > 0:
        width, height = level_size(picture.width, picture.height, level - 1)
        if width * height > MOST_SHARPENED:
            break
        level -= 1
        area = _sharper(picture, _larger(area, 2, cv2.INTER_NEAREST)[:height, :width].copy(), level, BAND)
    codes = area * np.uint8(255)
    if level > 0:
        codes = _larger(codes, 1 << level, cv2.INTER_LINEAR)
    return _softened(picture, codes[: picture.height, : picture.width].copy())


def _larger(area: Area, k: int, how: int) -> Area:
    return np.asarray(cv2.resize(area, None, fx=k, fy=k, interpolation=how), np.uint8)


def snapped(picture: Picture, mask: Area, width: float) -> Area:
    """A mask (codes 0..255 at full size) whose border, where it passes half, is moved to the picture's strongest edge
    within `width` pixels; what lies further away stays as it is."""
    level = 0
    while width / (1 << (level + 1)) >= 2 * BAND:
        level += 1
    band = max(1, round(width / (1 << level)))
    half = (mask >= 128).astype(np.uint8)
    w, h = level_size(picture.width, picture.height, level)
    reduced = cv2.resize(half * 255, (w, h), interpolation=cv2.INTER_AREA)
    small = half if level == 0 else (reduced >= 128).astype(np.uint8)
    found = at_full_size(picture, _sharper(picture, small, level, band), level)
    reach = max(1, int(np.ceil(width)))
    near = cv2.distanceTransform(1 - _border(half), cv2.DIST_L2, 5) <= reach + SOFT_WINDOW
    return np.where(near, found, mask).astype(np.uint8)


def _border(half: Area) -> Area:
    """The pixels on either side of an area's border."""
    return (cv2.dilate(half, SQUARE) - cv2.erode(half, SQUARE)).astype(np.uint8)
