"""Smooth steps and the fall-offs drawn with them (computation.md, Mask parts)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from glyptic.base.rectangles import Rect, level_size
from glyptic.pixels.compiled import Plane, formula, kernel

EDGE = 1e-6
"""How far beyond an included end a value may lie and still count as on it: the rounding of float32."""


@dataclass(frozen=True)
class Frame:
    """Which pixels of which level are meant: a rectangle in pixels of level `level` of a W x H picture."""

    rect: Rect
    level: int
    width: int
    height: int

    @property
    def step(self) -> float:
        """Full-size pixels to a pixel of the level."""
        return float(1 << self.level)

    @property
    def shape(self) -> tuple[int, int]:
        return self.rect.h, self.rect.w

    @property
    def bounds(self) -> Rect:
        """The whole picture at this level."""
        return Rect(0, 0, *level_size(self.width, self.height, self.level))


@formula
def clamp01(x: float) -> float:
    return min(max(x, 0.0), 1.0)


@formula
def smoothstep(a: float, b: float, x: float) -> float:
    """0 below a, 1 above b, u²(3 − 2u) between; where a = b a step, 1 for x >= a."""
    if b <= a:
        return 1.0 if x >= a else 0.0
    u = clamp01((x - a) / (b - a))
    return u * u * (3.0 - 2.0 * u)


@formula
def window(low: float, high: float, soft_low: float, soft_high: float, t: float) -> float:
    """1 in low..high, falling smoothly over the soft widths; an end with no softness is included."""
    rise = smoothstep(low - soft_low, low, t) if soft_low > 0 else (1.0 if t >= low - EDGE else 0.0)
    fall = smoothstep(high, high + soft_high, t) if soft_high > 0 else (0.0 if t <= high + EDGE else 1.0)
    return rise * (1.0 - fall)


@kernel
def _along(x0: float, y0: float, step: float, fx: float, fy: float, tx: float, ty: float, out: Plane) -> None:
    dx, dy = tx - fx, ty - fy
    scale = 1.0 / (dx * dx + dy * dy)
    for i in range(out.shape[0]):
        py = (y0 + i + 0.5) * step
        for j in range(out.shape[1]):
            px = (x0 + j + 0.5) * step
            out[i, j] = clamp01(((px - fx) * dx + (py - fy) * dy) * scale)


def along(frame: Frame, start: tuple[float, float], end: tuple[float, float]) -> Plane:
    """u in 0..1 of each pixel's centre along the line from start (0) to end (1)."""
    out = np.empty(frame.shape, np.float32)
    _along(frame.rect.x, frame.rect.y, frame.step, *start, *end, out)
    return out


@kernel
def _distance(x0: float, y0: float, step: float, fx: float, fy: float, reach: float, out: Plane) -> None:
    for i in range(out.shape[0]):
        dy = (y0 + i + 0.5) * step - fy
        for j in range(out.shape[1]):
            dx = (x0 + j + 0.5) * step - fx
            out[i, j] = clamp01(np.sqrt(dx * dx + dy * dy) / reach)


def around(frame: Frame, centre: tuple[float, float], rim: tuple[float, float]) -> Plane:
    """u in 0..1 of each pixel's centre: its distance from `centre` as a share of that of `rim`."""
    out = np.empty(frame.shape, np.float32)
    reach = float(np.hypot(rim[0] - centre[0], rim[1] - centre[1]))
    _distance(frame.rect.x, frame.rect.y, frame.step, *centre, reach, out)
    return out


@kernel
def _oval(
    x0: float, y0: float, step: float, cx: float, cy: float, rx: float, ry: float,
    cos: float, sin: float, softness: float, out: Plane,
) -> None:  # fmt: skip
    for i in range(out.shape[0]):
        dy = (y0 + i + 0.5) * step - cy
        for j in range(out.shape[1]):
            dx = (x0 + j + 0.5) * step - cx
            u = (dx * cos + dy * sin) / rx
            v = (dy * cos - dx * sin) / ry
            out[i, j] = 1.0 - smoothstep(1.0 - softness, 1.0, np.sqrt(u * u + v * v))


def oval(
    frame: Frame, centre: tuple[float, float], radii: tuple[float, float], rotation: float, softness: float
) -> Plane:
    """How far inside an ellipse each pixel's centre lies: 1 inside, 0 outside, soft towards the rim.

    rotation in degrees clockwise on screen; softness 0..1 is the share of the radius that fades.
    """
    out = np.empty(frame.shape, np.float32)
    turn = np.deg2rad(rotation)
    _oval(
        frame.rect.x, frame.rect.y, frame.step, *centre, *radii,
        float(np.cos(turn)), float(np.sin(turn)), softness, out,
    )  # fmt: skip
    return out
