"""The cast of a colour that should have none, in words: how far it leans to yellow or blue, to red or green."""

from __future__ import annotations

import numpy as np

from glyptic.analysis.difference import lab
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space

LEAST = 0.1
"""A lean of less than this, in CIE a* or b*, is told as none."""


def lean_of(px: Planes, space: Space) -> tuple[float, float]:
    """Mean CIE (a*, b*) of encoded pixels (3, h, w)."""
    _, a, b = lab(np.asarray(px), space).reshape(3, -1).mean(1)
    return float(a), float(b)


def cast_in_words(a: float, b: float) -> str:
    """As "0.6 to yellow, 0.2 to green", the stronger first; "no cast" where there is none."""
    leans = [(abs(b), "yellow" if b > 0 else "blue"), (abs(a), "red" if a > 0 else "green")]
    told = [f"{much:.1f} to {where}" for much, where in sorted(leans, reverse=True) if much >= LEAST]
    return ", ".join(told) or "no cast"
