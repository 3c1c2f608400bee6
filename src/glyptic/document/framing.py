"""Geometry of a crop: turned, levelled, mirrored, cut to other proportions, straightened, kept inside its picture.

Everything but the corners themselves is done in the plane of the crop, so that a panel that was straightened by its
corners stays straight however it is cut afterwards.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import atan2, ceil, cos, degrees, hypot, radians, sin, sqrt

from glyptic.base.homography import Homography, Place, Quad, area_of
from glyptic.document.values import Frame

STEPS = 60
"""Halvings that find how much of a change leaves a crop inside its picture."""
A_HAIR = 1e-6
"""How many pixels beyond the picture still count as inside."""


@dataclass(frozen=True)
class Crop:
    """Where a crop's corners lie in a picture (top left, top right, bottom right, bottom left of the crop); its
    size in whole pixels."""

    corners: Quad
    size: tuple[int, int]

    @classmethod
    def whole(cls, width: int, height: int) -> Crop:
        """All of a picture."""
        return cls(_rectangle(0, 0, width, height), (width, height))

    @property
    def onto(self) -> Homography:
        """Carries pixels of the crop to pixels of the picture."""
        return Homography.onto(self.corners, *self.size)

    def cut(self, quad: Quad, width: float, height: float) -> Crop:
        """The crop whose corners lie at these places of this one."""
        onto = self.onto
        a, b, c, d = (onto.at(*place) for place in quad)
        return Crop((a, b, c, d), (max(1, round(width)), max(1, round(height))))

    def is_inside(self, width: int, height: int) -> bool:
        """Whether it shows nothing beyond a picture of that size."""
        return all(-A_HAIR <= x <= width + A_HAIR and -A_HAIR <= y <= height + A_HAIR for x, y in self.corners)

    def turned(self, by: float, width: float | None = None, height: float | None = None) -> Crop:
        """Turned clockwise by degrees about its middle, cut to another size there."""
        across, down = width or self.size[0], height or self.size[1]
        (mx, my), angle = (self.size[0] / 2, self.size[1] / 2), radians(by)
        spans = _rectangle(-across / 2, -down / 2, across, down)
        quad = tuple((mx + x * cos(angle) - y * sin(angle), my + x * sin(angle) + y * cos(angle)) for x, y in spans)
        return self.cut((quad[0], quad[1], quad[2], quad[3]), across, down)

    def turned_inside(self, by: float, width: int, height: int) -> Crop:
        """As `turned`, made smaller in its proportions as far as it takes to lie inside a picture of that size."""
        wide, high = self.size
        turned = self.turned(by)
        if turned.is_inside(width, height) or not self.turned(by, 1, 1).is_inside(width, height):
            return turned
        low, most = 0.0, 1.0
        for _ in range(STEPS):
            middle = (low + most) / 2
            fits = self.turned(by, wide * middle, high * middle).is_inside(width, height)
            low, most = (middle, most) if fits else (low, middle)
        return self.turned(by, max(1, int(wide * low)), max(1, int(high * low)))

    def quarter(self, quarters: int) -> Crop:
        """Turned clockwise by quarters: what was at the left comes to be at the top."""
        first = -quarters % 4
        a, b, c, d = (self.corners[(first + k) % 4] for k in range(4))
        return Crop((a, b, c, d), self.size if quarters % 2 == 0 else self.size[::-1])

    def mirrored(self) -> Crop:
        """Left and right exchanged."""
        a, b, c, d = self.corners
        return Crop((b, a, d, c), self.size)

    def in_proportion(self, across: float, down: float) -> Crop:
        """The largest crop of these proportions about the middle of this one, in whole pixels."""
        wide, high = self.size
        width = max(1, round(min(wide, high * across / down)))
        height = max(1, min(high, round(width * down / across)))
        x, y = (wide - width) // 2, (high - height) // 2
        return self.cut(_rectangle(x, y, width, height), width, height)

    def levelled(self, one: Place, other: Place) -> float:
        """By how many degrees the crop is to be turned so that a line of the picture is level or plumb in it."""
        back = self.onto.inverse
        (x0, y0), (x1, y1) = back.at(*one), back.at(*other)
        return nearest_right_angle(degrees(atan2(y1 - y0, x1 - x0)))

    @property
    def turn(self) -> float:
        """By how many degrees it is turned clockwise, as its upper side lies."""
        (x0, y0), (x1, y1), _, _ = self.corners
        return degrees(atan2(y1 - y0, x1 - x0))


def nearest_right_angle(angle: float) -> float:
    """How far an angle in degrees is from the nearest multiple of 90, -45..45."""
    return (angle + 45) % 90 - 45


def _rectangle(x: float, y: float, width: float, height: float) -> Quad:
    return (x, y), (x + width, y), (x + width, y + height), (x, y + height)


def straightened(corners: Quad, centre: Place) -> Crop:
    """The crop of what is a rectangle in the scene and has these corners in its picture, in its true proportions.

    centre: where the camera looked, the middle of the picture as it was opened. No coarser than what it shows.
    """
    across, down = 1.0, 1.0 / proportions(corners, centre)
    width = ceil(sqrt(area_of(corners) * across / down) - A_HAIR)
    height = ceil(width * down / across - A_HAIR)
    return Crop(corners, (max(1, width), max(1, height)))


def proportions(corners: Quad, centre: Place) -> float:
    """Width / height of a rectangle in the scene by its corners in a picture (Z. Zhang and L. He 2007, Whiteboard
    scanning and image enhancement, section 3); by the lengths of its sides where the corners do not tell."""
    (ax, ay), (bx, by), (dx, dy), (cx, cy) = (((x - centre[0]), (y - centre[1])) for x, y in corners)
    m1, m2, m3, m4 = (ax, ay, 1.0), (bx, by, 1.0), (cx, cy, 1.0), (dx, dy, 1.0)
    k2 = _dot(_cross(m1, m4), m3) / _dot(_cross(m2, m4), m3)
    k3 = _dot(_cross(m1, m4), m2) / _dot(_cross(m3, m4), m2)
    n2, n3 = _less(m2, m1, k2), _less(m3, m1, k3)
    by_sides = (hypot(bx - ax, by - ay) + hypot(dx - cx, dy - cy)) / (hypot(cx - ax, cy - ay) + hypot(dx - bx, dy - by))
    if abs(n2[2] * n3[2]) < A_HAIR:
        return by_sides
    focal = -(n2[0] * n3[0] + n2[1] * n3[1]) / (n2[2] * n3[2])
    if focal <= 0:
        return by_sides
    wide, high = ((n[0] ** 2 + n[1] ** 2) / focal + n[2] ** 2 for n in (n2, n3))
    return sqrt(wide / high)


Three = tuple[float, float, float]


def _dot(a: Three, b: Three) -> float:
    return sum(x * y for x, y in zip(a, b, strict=True))


def _cross(a: Three, b: Three) -> Three:
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def _less(a: Three, b: Three, times: float) -> Three:
    """times · a − b."""
    return times * a[0] - b[0], times * a[1] - b[1], times * a[2] - b[2]


def comes_out_at(frame: Frame | None, x: float, y: float) -> tuple[float, float]:
    """Where a place of the base picture is in what comes out, in its full-size pixels."""
    if frame is None or not frame.enabled:
        return x, y
    return frame.onto.inverse.facing(*frame.corners[0]).at(x, y)
