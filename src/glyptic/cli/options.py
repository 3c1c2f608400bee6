"""Options of commands that are numbers: each checked by its name, all faults gathered."""

from __future__ import annotations

from glyptic.base.errors import Fault


def number(text: str, name: str, low: float, high: float, faults: list[Fault]) -> float:
    """A number of low..high, ends included; on a fault the lower end."""
    try:
        found = float(text)
    except ValueError:
        found = low - 1
    if not low <= found <= high:
        faults.append(Fault(name, f"must be a number in {low:g}..{high:g}, not {text[:40]!r}"))
        return low
    return found


def whole(text: str, name: str, low: int, high: int, faults: list[Fault]) -> int:
    """A whole number of low..high, ends included; on a fault the lower end."""
    try:
        found = int(text)
    except ValueError:
        found = low - 1
    if not low <= found <= high:
        faults.append(Fault(name, f"must be a whole number in {low}..{high}, not {text[:40]!r}"))
        return low
    return found
