"""Settings that are points, angles, colours and curves. Lengths are pixels of the base at full size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography
from glyptic.params.declared import Param, Recolour, describe, finite_number
from glyptic.params.moving import Scale, likeness
from glyptic.params.scalar import Real

Pair = tuple[float, float]


def number_list(raw: object, length: int, names: str, at: str, faults: list[Fault]) -> tuple[float, ...] | None:
    """`raw` as a tuple of `length` finite numbers, or None with faults."""
    if not isinstance(raw, list | tuple) or len(raw) != length:
        faults.append(Fault(at, f"must be {names}, not {describe(raw)}"))
        return None
    numbers = [finite_number(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
    if any(n is None for n in numbers):
        return None
    return tuple(n for n in numbers if n is not None)


FARTHEST = 1e6
"""No place is further than this many pixels from the picture's corner, across or down."""


def too_far(value: float) -> str:
    """What is wrong with a coordinate, or ''."""
    return "" if -FARTHEST <= value <= FARTHEST else f"must lie within ±{FARTHEST:,.0f} px, not at {value:g}"


@dataclass(frozen=True, kw_only=True)
class Point(Param):
    """[x, y] in pixels, each within ±1,000,000."""

    names: str = "[x, y]"

    def parse(self, raw: object, at: str, faults: list[Fault]) -> Pair | None:
        numbers = number_list(raw, 2, self.names, at, faults)
        if numbers is None:
            return None
        wrong = self._wrong(numbers)
        if wrong:
            faults.append(Fault(at, wrong))
            return None
        return numbers[0], numbers[1]

    def _wrong(self, numbers: tuple[float, ...]) -> str:
        return too_far(numbers[0]) or too_far(numbers[1])

    def plain(self, value: Pair) -> list[float]:
        return list(value)

    def carried(self, value: Pair, by: Homography) -> Pair:
        return by.at(*value)

    def scaled(self, value: Pair, by: Scale) -> Pair:
        return value[0] * by.across, value[1] * by.down


@dataclass(frozen=True, kw_only=True)
class Radii(Point):
    """[rx, ry] in pixels, both above 0."""

    names: str = "[rx, ry]"

    def _wrong(self, numbers: tuple[float, ...]) -> str:
        return "must both be above 0" if min(numbers) <= 0 else super()._wrong(numbers)

    def carried(self, value: Pair, by: Homography) -> Pair:
        grows = likeness(by, self.label)
        return value[0] * grows, value[1] * grows


@dataclass(frozen=True, kw_only=True)
class Shift(Point):
    """[dx, dy] in pixels: how far something lies from where it belongs."""

    def carried(self, value: Pair, by: Homography) -> Pair:
        if not by.is_shift:
            raise DocumentError([Fault(self.label, "cannot be carried over exactly; it can only be shifted")])
        return by.at(*value)


@dataclass(frozen=True, kw_only=True)
class Points(Param):
    """[[x, y], ...]: `least` to `most` places."""

    least: int = 1
    most: int = 10_000

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[Pair, ...] | None:
        if not isinstance(raw, list | tuple) or not self.least <= len(raw) <= self.most:
            found = f"{len(raw)} points" if isinstance(raw, list | tuple) else describe(raw)
            faults.append(Fault(at, f"must be a list of {self.least} to {self.most} points [x, y], not {found}"))
            return None
        corner = Point()
        points = [corner.parse(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
        return None if None in points else tuple(p for p in points if p is not None)

    def plain(self, value: tuple[Pair, ...]) -> list[list[float]]:
        return [list(p) for p in value]

    def carried(self, value: tuple[Pair, ...], by: Homography) -> tuple[Pair, ...]:
        return tuple(by.at(*point) for point in value)

    def scaled(self, value: tuple[Pair, ...], by: Scale) -> tuple[Pair, ...]:
        return tuple((x * by.across, y * by.down) for x, y in value)


@dataclass(frozen=True, kw_only=True)
class Polygon(Points):
    """[[x, y], ...], three points or more."""

    least: int = 3


@dataclass(frozen=True, kw_only=True)
class Coordinate(Real):
    """A place across or down, in pixels within ±1,000,000. What it belongs to moves it: it has no meaning by itself."""

    low: float = -FARTHEST
    high: float = FARTHEST
    unit: str = "px"
    step: float = 1

    @property
    def has_slider(self) -> bool:
        return False


@dataclass(frozen=True, kw_only=True)
class Length(Real):
    """Pixels of the base at full size: a size, a sigma, a distance."""

    unit: str = "px"
    step: float = 1

    def carried(self, value: float | None, by: Homography) -> float | None:
        return None if value is None else value * likeness(by, self.label) if value else value

    def scaled(self, value: float | None, by: Scale) -> float | None:
        """The length on a picture of another size; one that would leave its range stays at its end, and is told."""
        if value is None:
            return None
        wanted = value * by.length
        held = min(max(wanted, self.low), self.high)
        if held != wanted:
            by.held.append(f"{self.label or 'a length'} held at {held:g} px, for it goes no further")
        return held


@dataclass(frozen=True, kw_only=True)
class Angle(Real):
    """Degrees, clockwise on screen."""

    unit: str = "°"
    step: float = 1
    soft_low: float | None = -180
    soft_high: float | None = 180


@dataclass(frozen=True, kw_only=True)
class Turn(Angle):
    """By how much something lies turned on the picture."""

    def carried(self, value: float, by: Homography) -> float:
        likeness(by, self.label)
        return (-value if by.is_mirrored else value) + by.turn

    def opposite(self, value: float) -> float:
        return value


@dataclass(frozen=True, kw_only=True)
class Hue(Angle):
    """A place on the hue ring of OKLCh (CSS Color 4), degrees; the page shows the ring's colours along its bar."""

    low: float = -360
    high: float = 360
    soft_low: float | None = 0
    soft_high: float | None = 360

    def opposite(self, value: float) -> float:
        return value


@dataclass(frozen=True, kw_only=True)
class Colour(Param):
    """[r, g, b], encoded values 0..1 in the plate's working space."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[float, ...] | None:
        numbers = number_list(raw, 3, "[r, g, b]", at, faults)
        if numbers is None:
            return None
        before = len(faults)
        for i, n in enumerate(numbers):
            if not 0 <= n <= 1:
                faults.append(Fault(f"{at}[{i}]", f"must be in 0..1, not {n:g}"))
        return numbers if len(faults) == before else None

    def plain(self, value: tuple[float, ...]) -> list[float]:
        return list(value)

    def recoloured(self, value: tuple[float, ...] | None, by: Recolour) -> tuple[float, ...] | None:
        return None if value is None else by(value)


@dataclass(frozen=True, kw_only=True)
class Colours(Param):
    """[[r, g, b], ...]: at most `most` colours."""

    most: int = 16

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[tuple[float, ...], ...] | None:
        if not isinstance(raw, list | tuple) or len(raw) > self.most:
            faults.append(Fault(at, f"must be a list of at most {self.most} colours [r, g, b]"))
            return None
        found = [Colour().parse(item, f"{at}[{i}]", faults) for i, item in enumerate(raw)]
        return None if None in found else tuple(one for one in found if one is not None)

    def plain(self, value: tuple[tuple[float, ...], ...]) -> list[list[float]]:
        return [list(one) for one in value]

    def recoloured(self, value: tuple[tuple[float, ...], ...], by: Recolour) -> tuple[tuple[float, ...], ...]:
        return tuple(by(one) for one in value)


LEAST_APART = 1e-6
"""Points of a curve are this far apart or more: a 15th of a step of 16 bits."""


@dataclass(frozen=True, kw_only=True)
class CurvePoints(Param):
    """[[x, y], ...]: 2 to 32 points, x growing by 1e-6 or more, x and y in 0..1. Neutral is the straight line. `ends`
    are the words for what lies down and what lies up."""

    default: Any = ((0.0, 0.0), (1.0, 1.0))
    least: int = 2
    most: int = 32
    ends: tuple[str, str] = ("darker", "lighter")

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[Pair, ...] | None:
        if not isinstance(raw, list | tuple) or not self.least <= len(raw) <= self.most:
            found = f"{len(raw)} points" if isinstance(raw, list | tuple) else describe(raw)
            faults.append(Fault(at, f"must be a list of {self.least} to {self.most} points [x, y], not {found}"))
            return None
        before = len(faults)
        points: list[Pair] = []
        last_x: float | None = None
        for i, item in enumerate(raw):
            pair = number_list(item, 2, "[x, y]", f"{at}[{i}]", faults)
            if pair is None:
                last_x = None
                continue
            x, y = pair
            for axis, value in (("x", x), ("y", y)):
                if not 0 <= value <= 1:
                    faults.append(Fault(f"{at}[{i}]", f"{axis} must be in 0..1, not {value:g}"))
            if last_x is not None and x - last_x < LEAST_APART:
                must = "x must grow" if x <= last_x else f"x must grow by {LEAST_APART:g} or more"
                faults.append(Fault(f"{at}[{i}]", must))
            last_x = x
            points.append((x, y))
        return tuple(points) if len(faults) == before else None

    def plain(self, value: tuple[Pair, ...]) -> list[list[float]]:
        return [list(p) for p in value]

    def opposite(self, value: tuple[Pair, ...]) -> tuple[Pair, ...]:
        """The inverse of a curve that rises throughout; any other is mirrored upright about the straight line."""
        if all(b[1] - a[1] >= LEAST_APART for a, b in zip(value, value[1:], strict=False)):
            return tuple((y, x) for x, y in value)
        return tuple((x, min(max(2 * x - y, 0.0), 1.0)) for x, y in value)


def is_identity(points: tuple[Pair, ...]) -> bool:
    """Whether a curve is the straight line from (0, 0) to (1, 1)."""
    return points[0][0] == 0 and points[-1][0] == 1 and all(x == y for x, y in points)
