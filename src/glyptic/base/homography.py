"""Homographies of the plane: 3x3 matrices that carry points to points and straight lines to straight lines."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, degrees, hypot

Row = tuple[float, float, float]
Place = tuple[float, float]
Quad = tuple[Place, Place, Place, Place]
"""The corners of a quadrilateral, one after the other round it."""
PARALLEL = 1e-12
"""Shares of their length by which rounding may leave parallel sides not so."""
SAME = 1e-9
"""Relative difference up to which two lengths count as one."""


def area_of(corners: Quad) -> float:
    """The area of a quadrilateral that does not cross itself, whichever way round."""
    (x0, y0), (x1, y1), (x2, y2), (x3, y3) = corners
    return abs((x2 - x0) * (y3 - y1) - (x3 - x1) * (y2 - y0)) / 2


def is_convex(corners: Quad) -> bool:
    """Whether a quadrilateral is strictly convex: no corner on the line through its neighbours, no sides that cross."""
    turns = []
    for i in range(4):
        (ax, ay), (bx, by), (cx, cy) = (corners[(i + j) % 4] for j in range(3))
        turns.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    return all(turn > 0 for turn in turns) or all(turn < 0 for turn in turns)


def _turned(row: Row) -> Row:
    return -row[0], -row[1], -row[2]


@dataclass(frozen=True)
class Homography:
    """(x, y) goes to (X / W, Y / W), where (X, Y, W) is the matrix times (x, y, 1)."""

    rows: tuple[Row, Row, Row]

    @classmethod
    def shift(cls, dx: float, dy: float) -> Homography:
        return cls(((1.0, 0.0, dx), (0.0, 1.0, dy), (0.0, 0.0, 1.0)))

    @classmethod
    def affine(cls, xx: float, xy: float, x0: float, yx: float, yy: float, y0: float) -> Homography:
        """(x, y) goes to (xx x + xy y + x0, yx x + yy y + y0)."""
        return cls(((xx, xy, x0), (yx, yy, y0), (0.0, 0.0, 1.0)))

    @classmethod
    def onto(cls, corners: Quad, width: float, height: float) -> Homography:
        """What carries the rectangle (0, 0) (width, 0) (width, height) (0, height) onto four corners, in that order
        (P. Heckbert 1989, Fundamentals of Texture Mapping and Image Warping, 2.2.3)."""
        (x0, y0), (x1, y1), (x2, y2), (x3, y3) = corners
        (ax, ay), (bx, by) = (x1 - x2, y1 - y2), (x3 - x2, y3 - y2)
        sx, sy = x0 - x1 + x2 - x3, y0 - y1 + y2 - y3
        across = ax * by - bx * ay
        g, h = (sx * by - bx * sy) / across, (ax * sy - sx * ay) / across
        g, h = (0.0, 0.0) if max(abs(g), abs(h)) < PARALLEL else (g, h)
        return cls((
            ((x1 - x0 + g * x1) / width, (x3 - x0 + h * x3) / height, x0),
            ((y1 - y0 + g * y1) / width, (y3 - y0 + h * y3) / height, y0),
            (g / width, h / height, 1.0),
        ))  # fmt: skip

    def facing(self, x: float, y: float) -> Homography:
        """The same, written so that W is above 0 at a point, and so wherever the plane lies before the horizon."""
        far = self.rows[2][0] * x + self.rows[2][1] * y + self.rows[2][2]
        top, middle, bottom = self.rows
        return self if far > 0 else Homography((_turned(top), _turned(middle), _turned(bottom)))

    def at(self, x: float, y: float) -> Place:
        """Where a point is carried."""
        across, down, far = (row[0] * x + row[1] * y + row[2] for row in self.rows)
        return across / far, down / far

    def after(self, first: Homography) -> Homography:
        """What carries as `first` does and then as this one."""
        columns = list(zip(*first.rows, strict=True))

        def row(of: Row) -> Row:
            across, down, far = (sum(a * b for a, b in zip(of, column, strict=True)) for column in columns)
            return across, down, far

        top, middle, bottom = self.rows
        return Homography((row(top), row(middle), row(bottom)))

    @property
    def inverse(self) -> Homography:
        (a, b, c), (d, e, f), (g, h, i) = self.rows
        if self.is_affine:
            area = a * e - b * d
            xx, xy, yx, yy = e / area, -b / area, -d / area, a / area
            return Homography.affine(xx, xy, -(xx * c + xy * f), yx, yy, -(yx * c + yy * f))
        det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g)
        return Homography((
            ((e * i - f * h) / det, (c * h - b * i) / det, (b * f - c * e) / det),
            ((f * g - d * i) / det, (a * i - c * g) / det, (c * d - a * f) / det),
            ((d * h - e * g) / det, (b * g - a * h) / det, (a * e - b * d) / det),
        ))  # fmt: skip

    @property
    def is_affine(self) -> bool:
        return self.rows[2] == (0.0, 0.0, 1.0)

    @property
    def is_shift(self) -> bool:
        (a, b, _), (d, e, _), _ = self.rows
        return self.is_affine and (a, b, d, e) == (1.0, 0.0, 0.0, 1.0)

    @property
    def is_mirrored(self) -> bool:
        (a, b, _), (d, e, _), _ = self.rows
        return a * e - b * d < 0

    @property
    def likeness(self) -> float | None:
        """By how much every length grows, where all grow alike (a similarity); else None."""
        (a, b, _), (d, e, _), _ = self.rows
        across, down = hypot(a, d), hypot(b, e)
        square = abs(a * b + d * e) <= SAME * across * down
        return across if self.is_affine and square and abs(across - down) <= SAME * across else None

    @property
    def turn(self) -> float:
        """By how many degrees, clockwise on screen, the x axis is turned."""
        return degrees(atan2(self.rows[1][0], self.rows[0][0]))
