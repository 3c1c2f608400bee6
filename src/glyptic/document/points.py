"""The points of a stroke: plain rows to packed values, with every fault by its place."""

from __future__ import annotations

from glyptic.base.errors import Fault
from glyptic.document.fields import MOST_POINTS, PEN
from glyptic.document.values import LEANING, PLAIN, StrokePoints
from glyptic.params.declared import describe, finite_number
from glyptic.params.geometry import FARTHEST, too_far

NUMBERS = (int, float)


def parse_points(plain: object, at: str, faults: list[Fault]) -> StrokePoints | None:
    """The points of a list of rows, 1 to MOST_POINTS of them; None with faults."""
    before = len(faults)
    if not isinstance(plain, list):
        faults.append(Fault(at, f"must be a list, not {describe(plain)}"))
        return None
    if not 1 <= len(plain) <= MOST_POINTS:
        wanted = f"at most {MOST_POINTS:,} points; lift the hand and go on" if plain else "at least one point"
        faults.append(Fault(at, f"must hold {wanted}"))
        return None
    rows: list[tuple[float, ...]] = [tuple(item) for item in plain if _is_plain(item)]
    if len(rows) < len(plain):
        rows = [_point(item, f"{at}[{i}]", faults) for i, item in enumerate(plain)]
    return StrokePoints.of(rows) if len(faults) == before else None


def _point(item: object, at: str, faults: list[Fault]) -> tuple[float, ...]:
    if not isinstance(item, list) or len(item) not in (2, PLAIN, LEANING):
        faults.append(Fault(at, f"must be [x, y, pressure] or [x, y, pressure, tilt, speed], not {describe(item)}"))
        return ()
    numbers = [finite_number(n, f"{at}[{i}]", faults) for i, n in enumerate(item)]
    told = [1.0 if n is None else n for n in (*numbers, 1.0)[: max(len(numbers), PLAIN)]]
    for i, value in enumerate(told[:2]):
        if too_far(value):
            faults.append(Fault(f"{at}[{i}]", too_far(value)))
    for i, what in enumerate(PEN, start=2):
        if i < len(told) and not 0 <= told[i] <= 1:
            faults.append(Fault(f"{at}[{i}]", f"{what} must be in 0..1, not {told[i]:g}"))
    return tuple(told)


def _is_plain(item: object) -> bool:
    """Whether a point is x, y and pressure, and nothing about it is to be said: nearly all of them are."""
    if type(item) is not list or len(item) != PLAIN or any(type(n) not in NUMBERS for n in item):
        return False
    x, y, pressure = item
    return bool(-FARTHEST <= x <= FARTHEST and -FARTHEST <= y <= FARTHEST and 0 <= pressure <= 1)
