"""How settings move: carried to another place by a homography, scaled to a picture of another size."""

from __future__ import annotations

from dataclasses import dataclass, field
from math import sqrt

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography


@dataclass(frozen=True)
class Scale:
    """From a picture of one size to one of another: places and radii across and down, lengths by their mean. held: what
    is told of lengths that would have left their range, and stay at its end."""

    across: float
    down: float
    held: list[str] = field(default_factory=list, compare=False)

    @property
    def length(self) -> float:
        return sqrt(self.across * self.down)


def likeness(by: Homography, what: str) -> float:
    """By how much lengths grow; raises DocumentError where they do not all grow alike."""
    grows = by.likeness
    if grows is None:
        raise DocumentError([Fault(what, "cannot be carried over exactly, for what lies there is drawn out of shape")])
    return grows
