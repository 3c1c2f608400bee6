"""Homographies of the plane: 3x3 matrices that carry points to points and straight lines to straight lines."""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, degrees, hypot

Row = tuple[float, float, float]
Place = tuple[float, float]
SAME = 1e-9
"""Relative difference up to which two lengths count as one."""


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
