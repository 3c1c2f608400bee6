"""How many threads this process may use: said in one place, for it may share the machine with others."""

from __future__ import annotations

import os

_ALLOWED: list[int] = []


def allow(count: int) -> None:
    """How many threads this process may use from now on."""
    _ALLOWED[:] = [max(1, count)]


def allowed(wanted: int = 0) -> int:
    """How many threads something may use that wants so many; 0 for as many as there are processors."""
    most = _ALLOWED[0] if _ALLOWED else os.cpu_count() or 1
    return min(wanted, most) if wanted else most
