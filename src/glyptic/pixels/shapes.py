"""Smooth steps and the fall-offs drawn with them (computation.md, Mask parts)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy import float32

from glyptic.base.rectangles import Rect, level_size, step_of
from glyptic.pixels.compiled import Plane, Row, formula, kernel
from glyptic.pixels.vector import ONE, clamp01, root

NOTHING, THREE = float32(0), float32(3)
EDGE = float32(4e-6)
"""How far beyond an included end a value may lie and still count as on it: the rounding of float32."""


@dataclass(frozen=True)
class Patch:
    """Which pixels of which level are meant: a rectangle in pixels of level `level` of a W x H picture."""

    rect: Rect
    level: float
    width: int
    height: int

    @property
    def step(self) -> float:
        """Full-size pixels to a pixel of the level."""
        return step_of(self.level)

    @property
    def origin(self) -> tuple[int, int]:
        return self.rect.x, self.rect.y

    @property
    def shape(self) -> tuple[int, int]:
        return self.rect.h, self.rect.w

    @property
    def bounds(self) -> Rect:
        """The whole picture at this level."""
        return Rect(0, 0, *level_size(self.width, self.height, self.level))


@formula
def eased(u: float) -> float:
    """u²(3 − 2u)."""
    return u * u * (THREE - (u + u))


@formula
def smoothstep(a: float, b: float, x: float) -> float:
    """0 below a, 1 above b, u²(3 − 2u) between; where a = b a step, 1 for x >= a."""
    width = b - a
    step = ONE if x >= a else NOTHING
    return eased(clamp01((x - a) / (width if width > NOTHING else ONE))) if width > NOTHING else step


@formula
def window(low: float, high: float, soft_low: float, soft_high: float, t: float) -> float:
    """1 in low..high, falling smoothly over the soft widths; an end with no softness is included."""
    from_low = ONE if t >= low - EDGE else NOTHING
    past_high = NOTHING if t <= high + EDGE else ONE
    rise = smoothstep(low - soft_low, low, t) if soft_low > NOTHING else from_low
    fall = smoothstep(high, high + soft_high, t) if soft_high > NOTHING else past_high
    return rise * (ONE - fall)


@kernel
def is_flat(plane: Plane) -> bool:
    """Whether a plane has one value everywhere; looks no further than where it has not."""
    first = plane[0, 0]
    for i in range(plane.shape[0]):
        differs = False
        for j in range(plane.shape[1]):
            differs |= plane[i, j] != first
        if differs:
            return False
    return True


@formula
def offsets(first: int, step: float, from_here: float, out: Row) -> None:
    """How far, in full-size pixels, the centres of pixels first, first + 1 ... lie beyond a coordinate.

    Worked out in float64 and rounded once, so that a pixel's value does not depend on the patch it is asked for in.
    """
    for j in range(out.shape[0]):
        out[j] = float32((first + j + 0.5) * step - from_here)


@kernel
def _along(x0: int, y0: int, step: float, fx: float, fy: float, rise_x: float, rise_y: float, out: Plane) -> None:
    dx, dy = np.empty(out.shape[1], np.float32), np.empty(out.shape[0], np.float32)
    offsets(x0, step, fx, dx)
    offsets(y0, step, fy, dy)
    for i in range(out.shape[0]):
        down = dy[i] * rise_y
        for j in range(out.shape[1]):
            out[i, j] = clamp01(dx[j] * rise_x + down)


def along(patch: Patch, start: tuple[float, float], end: tuple[float, float]) -> Plane:
    """u in 0..1 of each pixel's centre along the line from start (0) to end (1)."""
    out = np.empty(patch.shape, np.float32)
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = dx * dx + dy * dy
    _along(*patch.origin, patch.step, *start, np.float32(dx / length), np.float32(dy / length), out)
    return out


@kernel
def _distance(x0: int, y0: int, step: float, fx: float, fy: float, per_reach: float, out: Plane) -> None:
    dx, dy = np.empty(out.shape[1], np.float32), np.empty(out.shape[0], np.float32)
    offsets(x0, step, fx, dx)
    offsets(y0, step, fy, dy)
    for i in range(out.shape[0]):
        down = dy[i] * dy[i]
        for j in range(out.shape[1]):
            out[i, j] = clamp01(root(dx[j] * dx[j] + down) * per_reach)


def around(patch: Patch, centre: tuple[float, float], rim: tuple[float, float]) -> Plane:
    """u in 0..1 of each pixel's centre: its distance from `centre` as a share of that of `rim`."""
    out = np.empty(patch.shape, np.float32)
    reach = np.hypot(rim[0] - centre[0], rim[1] - centre[1])
    _distance(*patch.origin, patch.step, *centre, np.float32(1 / reach), out)
    return out


@kernel
def _oval(x0: int, y0: int, step: float, cx: float, cy: float, turn: Row, softness: float, out: Plane) -> None:
    """turn: what dx and dy count for along the two axes of the ellipse, in radii: xx, xy, yx, yy."""
    dx, dy = np.empty(out.shape[1], np.float32), np.empty(out.shape[0], np.float32)
    offsets(x0, step, cx, dx)
    offsets(y0, step, cy, dy)
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            u = dx[j] * turn[0] + dy[i] * turn[1]
            v = dx[j] * turn[2] + dy[i] * turn[3]
            out[i, j] = ONE - smoothstep(ONE - softness, ONE, root(u * u + v * v))


def oval(
    patch: Patch, centre: tuple[float, float], radii: tuple[float, float], rotation: float, softness: float
) -> Plane:
    """How far inside an ellipse each pixel's centre lies: 1 inside, 0 outside, soft towards the rim.

    rotation in degrees clockwise on screen; softness 0..1 is the share of the radius that fades.
    """
    out = np.empty(patch.shape, np.float32)
    cos, sin = np.cos(np.deg2rad(rotation)), np.sin(np.deg2rad(rotation))
    turn = np.array([cos / radii[0], sin / radii[0], -sin / radii[1], cos / radii[1]], np.float32)
    _oval(*patch.origin, patch.step, *centre, turn, np.float32(softness), out)
    return out
