"""Coverage S of one stroke over a patch, at any level (computation.md, Stroke)."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.base.rectangles import Rect, level_size, step_of
from glyptic.brush.dabs import Dabs, lay_dabs
from glyptic.document.values import Stroke
from glyptic.pixels.areas import Areas
from glyptic.pixels.compiled import Plane, Row, formula, kernel
from glyptic.pixels.shapes import NOTHING, Patch, eased
from glyptic.pixels.vector import clamp01, root

LANES = 32
"""Rows are worked on in groups of this many pixels, which is what vector code likes."""
LEAST_RADIUS_DRAWN = 8.0
"""A stroke with a smaller radius, in pixels of the level, is drawn at a finer level and reduced."""
LEAST_FADE_DRAWN = 4.0
"""The same for the width over which its edge fades."""


@formula
def _fade(row: Row, squares: Row, down: float, per_width: float, ramp: float, flow: float, opacity: float) -> None:
    """A dab's fading edge over part of a row; u = ramp − distance / width."""
    for j in range(row.shape[0]):
        u = clamp01(ramp - root(squares[j] + down) * per_width)
        left_over = opacity - row[j]
        row[j] += flow * eased(u) * (left_over if left_over > NOTHING else NOTHING)


@formula
def _fill(row: Row, flow: float, opacity: float) -> None:
    """The middle of a dab over part of a row."""
    for j in range(row.shape[0]):
        left_over = opacity - row[j]
        row[j] += flow * (left_over if left_over > NOTHING else NOTHING)


@kernel
def _stamp(dabs: Dabs, hardness: float, x0: int, y0: int, step: float, out: Plane) -> None:
    """S over `out`, whose first pixel is (x0, y0) of a level of `step` full-size pixels.

    Distances are worked out in float64 and rounded once for each column and row. Of each row only the chord of the
    dab is looked at, in whole groups of LANES pixels (beyond the dab they gain nothing), and the stretch of it where
    the profile is 1 by a shorter loop.
    """
    h, w = out.shape
    squares = np.empty(w, np.float32)
    for n in range(dabs.shape[0]):
        cx, cy, r = dabs[n, 0], dabs[n, 1], dabs[n, 2]
        flow, opacity = float32(dabs[n, 3]), float32(dabs[n, 4])
        middle = 0.5 * (1.0 + hardness) * r
        width = max((1.0 - hardness) * r, step)
        outer, inner = middle + 0.5 * width, max(middle - 0.5 * width, 0.0)
        per_width = float32(1.0 / width)
        ramp = float32(middle / width + 0.5)
        top = max(0, int(np.floor((cy - outer) / step)) - y0)
        bottom = min(h, int(np.ceil((cy + outer) / step)) - y0 + 1)
        left = max(0, int(np.floor((cx - outer) / step)) - x0) // LANES * LANES
        right = min(w, (int(np.ceil((cx + outer) / step)) - x0 + LANES) // LANES * LANES)
        for j in range(left, right):
            dx = (x0 + j + 0.5) * step - cx
            squares[j] = float32(dx * dx)
        middle_x = cx / step - x0 - 0.5
        for i in range(top, bottom):
            dy = (y0 + i + 0.5) * step - cy
            chord = np.sqrt(max(outer * outer - dy * dy, 0.0)) / step
            first = max(left, int(middle_x - chord) // LANES * LANES)
            last = min(right, (int(middle_x + chord) + 1 + LANES) // LANES * LANES)
            if first >= last:
                continue
            core = np.sqrt(max(inner * inner - dy * dy, 0.0)) / step - 1.0
            full_from = max((int(middle_x - core) + LANES) // LANES * LANES, first)
            full_to = min(int(middle_x + core) // LANES * LANES, last)
            down = float32(dy * dy)
            row = out[i]
            if core <= 0.0 or full_to <= full_from:
                _fade(row[first:last], squares[first:last], down, per_width, ramp, flow, opacity)
            else:
                _fade(row[first:full_from], squares[first:full_from], down, per_width, ramp, flow, opacity)
                _fill(row[full_from:full_to], flow, opacity)
                _fade(row[full_to:last], squares[full_to:last], down, per_width, ramp, flow, opacity)


@kernel
def _box_mean(fine: Plane, k: int, fx: int, fy: int, fw: int, fh: int, x0: int, y0: int, out: Plane) -> None:
    """Means over blocks of k pixels of `fine`, whose first pixel is (fx, fy) of a fw x fh picture."""
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            top, left = (y0 + i) * k, (x0 + j) * k
            bottom, right = min(top + k, fh), min(left + k, fw)
            total = 0.0
            for y in range(top, bottom):
                for x in range(left, right):
                    total += fine[y - fy, x - fx]
            out[i, j] = total / ((bottom - top) * (right - left))


def drawn_level(stroke: Stroke, level: float) -> float:
    """The level a stroke is drawn at when it is wanted at `level`: that one, or the coarsest finer one that will do."""
    r = stroke.size / 2
    fade = (1 - stroke.hardness) * r
    while level > 0 and (r < LEAST_RADIUS_DRAWN * step_of(level) or fade < LEAST_FADE_DRAWN * step_of(level)):
        level = max(0, level - 1)
    return level


def touched(stroke: Stroke, level: float) -> Rect:
    """The pixels of a level a stroke can touch, not clipped to the picture."""
    left, top, right, bottom = stroke.bounds
    step = step_of(level)
    margin = max(stroke.size / 2, 0.5) + step
    return Rect.covering(
        (left - margin) / step, (top - margin) / step, (right + margin) / step, (bottom + margin) / step
    )


def coverage(stroke: Stroke, patch: Patch) -> Plane:
    """S of a stroke over a patch: (h, w) in 0..1."""
    return stamped(lay_dabs(stroke), stroke, patch)


def stamped(dabs: Dabs, stroke: Stroke, patch: Patch) -> Plane:
    """S of a stroke whose dabs are laid already."""
    level = drawn_level(stroke, patch.level)
    out = np.zeros(patch.shape, np.float32)
    if level == patch.level:
        _stamp(dabs, stroke.hardness, patch.rect.x, patch.rect.y, patch.step, out)
        return out
    area = touched(stroke, patch.level).meet(patch.rect)
    if area.empty:
        return out
    y, x = area.y - patch.rect.y, area.x - patch.rect.x
    out[y : y + area.h, x : x + area.w] = _averaged(dabs, stroke.hardness, patch, area, level)
    return out


def _averaged(dabs: Dabs, hardness: float, patch: Patch, area: Rect, level: float) -> Plane:
    """(h, w) of an area of a patch, drawn at a finer level and averaged over what each pixel covers."""
    step, size = step_of(level), level_size(patch.width, patch.height, level)
    ratio = patch.step / step
    gathered = Areas(area, ratio, (patch.width / step, patch.height / step), 1)
    wide = gathered.source.meet(Rect(0, 0, *size))
    fine = np.zeros((wide.h, wide.w), np.float32)
    _stamp(dabs, hardness, wide.x, wide.y, step, fine)
    if ratio == int(ratio):
        part = np.empty((area.h, area.w), np.float32)
        _box_mean(fine, int(ratio), wide.x, wide.y, *size, area.x, area.y, part)
        return part
    gathered.add(fine[None], wide)
    return np.asarray(gathered.planes(1.0)[0])


class Trail:
    """The coverage of a stroke while it is drawn, tile by tile: later points never move a dab that is there, so only
    the new dabs are laid on what was there before."""

    def __init__(self, stroke: Stroke) -> None:
        self.stroke = stroke
        self._dabs = lay_dabs(stroke)
        self._tiles: dict[Patch, tuple[int, Plane]] = {}

    @property
    def bytes(self) -> int:
        """What it keeps."""
        return self._dabs.nbytes + sum(plane.nbytes for _, plane in list(self._tiles.values()))

    def grow(self, stroke: Stroke) -> None:
        """Go on with the same stroke, some points longer."""
        self.stroke = stroke
        self._dabs = lay_dabs(stroke)

    def cover(self, patch: Patch) -> Plane:
        """S over a patch; not to be written, and true until the trail grows."""
        if drawn_level(self.stroke, patch.level) != patch.level:
            return stamped(self._dabs, self.stroke, patch)
        done, plane = self._tiles.get(patch) or (0, np.zeros(patch.shape, np.float32))
        _stamp(self._dabs[done:], self.stroke.hardness, patch.rect.x, patch.rect.y, patch.step, plane)
        self._tiles[patch] = (len(self._dabs), plane)
        return plane
