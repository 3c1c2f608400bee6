"""Options of commands that are numbers: each checked by its name, all faults gathered."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from glyptic.base.errors import Fault

N = TypeVar("N", int, float)


def number(text: str, name: str, low: float, high: float, faults: list[Fault]) -> float:
    """A number of low..high, ends included; on a fault the lower end."""
    return _within(text, float, "a number", name, low, high, faults)


def whole(text: str, name: str, low: int, high: int, faults: list[Fault]) -> int:
    """A whole number of low..high, ends included; on a fault the lower end."""
    return _within(text, int, "a whole number", name, low, high, faults)


def _within(text: str, read: Callable[[str], N], what: str, name: str, low: N, high: N, faults: list[Fault]) -> N:
    try:
        found = read(text)
    except ValueError:
        found = low - 1
    if not low <= found <= high:
        faults.append(Fault(name, f"must be {what} in {low:g}..{high:g}, not {text[:40]!r}"))
        return low
    return found
