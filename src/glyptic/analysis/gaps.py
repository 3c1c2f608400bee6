"""Faults of a mask: holes in what is shown, specks in what is hidden, and places where it reaches over an edge of the
picture or falls short of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from glyptic.base.rectangles import Rect

Codes = NDArray[np.uint8]
HALF = 128
"""From this code on a pixel counts as shown."""
STATS = (cv2.CC_STAT_LEFT, cv2.CC_STAT_TOP, cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT, cv2.CC_STAT_AREA)
RIM = 3
"""Pixels around a gap that are closed with it, for its edge may be soft."""


Path = tuple[tuple[tuple[float, float], ...], ...]
"""Lines of (x, y) in pixels."""
TRACED_WITHIN, MIDDLE = 0.7, 0.5
"""How far in pixels a traced line may lie from the rim, and where in a pixel its middle is."""


@dataclass(frozen=True)
class Place:
    """A fault: what it is ('gap', 'spill', 'over', 'short'), where, and how many pixels it holds; at: one of them;
    worth: how bad it is, 0..1, for sorting; path: lines along it, through the middles of its pixels."""

    kind: str
    rect: Rect
    pixels: int
    at: tuple[int, int]
    worth: float = 0.0
    path: Path = ()

    def scaled(self, by: int) -> Place:
        """The place on a picture so many times as large."""
        rect = self.rect.scaled(by)
        path = tuple(tuple((by * x, by * y) for x, y in line) for line in self.path)
        return Place(self.kind, rect, by * self.pixels, (by * self.at[0], by * self.at[1]), self.worth, path)


def _traced(inside: NDArray[np.bool_], left: int, top: int) -> Path:
    """Lines along the rim of what is inside a small rectangle that begins at (left, top); a row of single pixels is
    gone along once there and back."""
    lines, _ = cv2.findContours(inside.astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)
    smooth = (cv2.approxPolyDP(line, TRACED_WITHIN, True)[:, 0] for line in lines)
    return tuple(
        tuple((left + float(x) + MIDDLE, top + float(y) + MIDDLE) for x, y in (*line, line[0])) for line in smooth
    )


@dataclass(frozen=True)
class Specks:
    """Gaps or spill of a mask: the places, the largest first, and for each its number in `labels` (h, w)."""

    places: tuple[Place, ...]
    numbers: tuple[int, ...]
    labels: NDArray[np.int32]

    def number_at(self, x: float, y: float) -> int:
        """The number of the area a place (in pixels) lies in, or -1."""
        height, width = self.labels.shape
        return int(self.labels[int(y), int(x)]) if 0 <= x < width and 0 <= y < height else -1

    def covered(self, chosen: list[int]) -> Codes:
        """(h, w) codes of a part that closes, or drops, some of the places, their rims included."""
        wanted = np.isin(self.labels, [self.numbers[i] for i in chosen]).astype(np.uint8) * np.uint8(255)
        return np.asarray(cv2.dilate(wanted, np.ones((2 * RIM + 1, 2 * RIM + 1), np.uint8)), np.uint8)


def specks(mask: Codes, kind: str, across: float) -> Specks:
    """Holes in what a mask shows ('gap'), or specks in what it hides ('spill'), no more than `across` pixels wide or
    high and not reaching the picture's border. mask: (h, w) codes at full size."""
    inside = (mask < HALF if kind == "gap" else mask >= HALF).astype(np.uint8)
    _, labels, found, _ = cv2.connectedComponentsWithStats(inside, connectivity=4)
    x, y, w, h, area = (found[:, i] for i in STATS)
    height, width = mask.shape
    small = np.maximum(w, h) <= across
    off_border = (x > 0) & (y > 0) & (x + w < width) & (y + h < height)
    chosen = [int(i) for i in np.flatnonzero(small & off_border) if i > 0]
    chosen.sort(key=lambda i: -int(area[i]))
    places = tuple(
        Place(kind, rect, int(area[i]), _first(labels, i, rect), path=_traced_of(labels, i, rect))
        for i, rect in ((i, Rect(int(x[i]), int(y[i]), int(w[i]), int(h[i]))) for i in chosen)
    )
    return Specks(places, tuple(chosen), np.asarray(labels, np.int32))


def _traced_of(labels: NDArray[Any], number: int, rect: Rect) -> Path:
    return _traced(labels[rect.y : rect.bottom, rect.x : rect.right] == number, rect.x, rect.y)


def _first(labels: NDArray[Any], number: int, rect: Rect) -> tuple[int, int]:
    """A pixel of an area that begins in the first row of its rectangle."""
    return rect.x + int(np.argmax(labels[rect.y, rect.x : rect.right] == number)), rect.y


NEAR, FAR = 2, 12
"""Pixels from an edge at which its two sides are looked at, nearby and further off."""
SHOWN, HIDDEN = 0.8, 0.2
"""A mask separates the two sides of an edge where, further off, it shows one and hides the other."""
OFF = 0.35
"""Nearby the mask may differ from that by this much."""
LEAST_EDGE = 0.05
"""The step of tone from one side to the other that counts as a strong edge."""
LEAST_LENGTH = 12
"""Pixels of edge, of the level looked at, that make a place."""
JOINED = 9
LONGEST_ROW = 1 << 14
"""OpenCV looks up fewer than 32,767 points in a row."""


def halos(tones: NDArray[np.float32], mask: NDArray[np.float32], change: NDArray[np.float32]) -> list[Place]:
    """Where a mask bleeds over a strong edge of the picture ('over') or falls short of one ('short'), the worst first.

    tones: tone of what is below the layer; mask: what it shows, 0..1; change: by how much tone the layer changes the
    picture where it is shown wholly; all (h, w) of one level, in whose pixels the places are given.
    """
    smooth = np.asarray(cv2.GaussianBlur(tones, (0, 0), 1.0), np.float32)
    gx, gy = (cv2.Sobel(smooth, cv2.CV_32F, *d, scale=0.125) for d in ((1, 0), (0, 1)))
    steep = np.hypot(gx, gy)
    edge = cv2.Canny((np.clip(smooth, 0, 1) * 255).astype(np.uint8), 12, 30) > 0
    ys, xs = np.nonzero(edge & (steep > LEAST_EDGE / (2 * NEAR)))
    if not len(ys):
        return []
    nx, ny = gx[ys, xs] / steep[ys, xs], gy[ys, xs] / steep[ys, xs]

    def seen(plane: NDArray[np.float32], by: float) -> NDArray[np.float32]:
        """Between the pixels (linear), as many to a row as OpenCV takes."""
        rows = -(-len(xs) // LONGEST_ROW)
        x, y = (np.zeros(rows * LONGEST_ROW, np.float32) for _ in range(2))
        x[: len(xs)], y[: len(ys)] = xs + by * nx, ys + by * ny
        across, down = x.reshape(rows, LONGEST_ROW), y.reshape(rows, LONGEST_ROW)
        read = cv2.remap(plane, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(read, np.float32).ravel()[: len(xs)]

    far, near = (seen(mask, -FAR), seen(mask, FAR)), (seen(mask, -NEAR), seen(mask, NEAR))
    step = np.abs(np.subtract(seen(smooth, 2 * NEAR), seen(smooth, -2 * NEAR)))
    places: list[Place] = []
    for kind in ("over", "short"):
        marks = np.zeros(mask.shape, np.uint8)
        worth = np.zeros(mask.shape, np.float32)
        for a in (0, 1):
            parts = (far[a] >= SHOWN) & (far[1 - a] <= HIDDEN) & (step >= LEAST_EDGE)
            off = near[1 - a] - HIDDEN if kind == "over" else SHOWN - near[a]
            bad = parts & (off > OFF - HIDDEN)
            marks[ys[bad], xs[bad]] = 1
            worth[ys[bad], xs[bad]] = (off * np.abs(change[ys, xs]))[bad]
        places += _joined(kind, marks, worth)
    return sorted(places, key=lambda place: -place.worth)


def _joined(kind: str, marks: Codes, worth: NDArray[np.float32]) -> list[Place]:
    """Marked pixels that lie near to each other as places."""
    joined = cv2.dilate(marks, np.ones((JOINED, JOINED), np.uint8))
    count, labels = cv2.connectedComponents(joined, connectivity=8)
    labels = np.where(marks > 0, labels, 0)
    places = []
    for i in range(1, count):
        ys, xs = np.nonzero(labels == i)
        if len(ys) < LEAST_LENGTH:
            continue
        left, top = int(xs.min()), int(ys.min())
        rect = Rect(left, top, int(xs.max()) - left + 1, int(ys.max()) - top + 1)
        worth_of_all = float(worth[ys, xs].mean()) * min(1.0, len(ys) / 100)
        path = _traced_of(labels, i, rect)
        places.append(Place(kind, rect, len(ys), (int(xs[0]), int(ys[0])), worth_of_all, path))
    return places
