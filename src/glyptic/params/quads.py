"""Settings of what is framed: four corners, a size in whole pixels, a colour that may be left to another."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from glyptic.base.errors import Fault
from glyptic.base.homography import area_of, is_convex
from glyptic.params.declared import Param
from glyptic.params.geometry import Colour, Pair, Points, number_list

SMALLEST_QUAD = 1e-3
"""Square pixels that four corners enclose, at least."""
MOST_PIXELS = 1_000_000_000
"""Of anything that has a size."""


@dataclass(frozen=True, kw_only=True)
class Corners(Points):
    """Four places [x, y] round a strictly convex quadrilateral, either way: top left, top right, bottom right, bottom
    left of what lies in it."""

    least: int = 4
    most: int = 4

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[Pair, ...] | None:
        if isinstance(raw, list | tuple) and len(raw) != self.least:
            faults.append(Fault(at, f"must be four corners [x, y], not {len(raw)}"))
            return None
        corners = super().parse(raw, at, faults)
        if corners is None:
            return None
        a, b, c, d = corners
        if is_convex((a, b, c, d)) and area_of((a, b, c, d)) >= SMALLEST_QUAD:
            return corners
        words = "must lie round a shape without dents: two of them coincide, lie in a line, or its sides cross"
        faults.append(Fault(at, "must be strictly convex: corners coincide, lie in a line or cross", words=words))
        return None


@dataclass(frozen=True, kw_only=True)
class Size(Param):
    """[width, height] in whole pixels, each 1 or more, and no more than `most` pixels in all."""

    longest: int = 100_000
    most: int = MOST_PIXELS

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[int, int] | None:
        numbers = number_list(raw, 2, "[width, height]", at, faults)
        if numbers is None:
            return None
        if any(n != round(n) or not 1 <= n <= self.longest for n in numbers):
            faults.append(Fault(at, f"must be whole numbers in 1..{self.longest:,}, not {list(numbers)}"))
            return None
        if numbers[0] * numbers[1] > self.most:
            faults.append(Fault(at, f"must be at most {self.most:,} pixels, not {numbers[0] * numbers[1]:,.0f}"))
            return None
        return int(numbers[0]), int(numbers[1])

    def plain(self, value: tuple[int, int]) -> list[int]:
        return list(value)


@dataclass(frozen=True, kw_only=True)
class ColourIfAny(Colour):
    """As a colour, or null: another one stands in."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[float, ...] | None:
        return None if raw is None else super().parse(raw, at, faults)

    def plain(self, value: Any) -> Any:
        return None if value is None else super().plain(value)
