"""What the page looks at, and what it has in its hand: the values behind tiles and strokes being drawn."""

from __future__ import annotations

from dataclasses import dataclass, field
from threading import Condition

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Rect
from glyptic.brush.coverage import Trail
from glyptic.document.values import Stack, Stroke
from glyptic.engine.printed import Press
from glyptic.engine.views import HATCH, VIEWS, Hatch

SCREENS = ("srgb", "display-p3")
"""What a canvas can be made in."""
OWN = ""
"""No screen's: the plate's own values."""


@dataclass(frozen=True)
class Looking:
    """What is looked at: a view of a layer, a level, and a rectangle of that level.

    against: the state it is compared with, or None for the base.
    working: whether that layer is being worked on, so that what is below it is worth keeping. hatch: how a mask is
    drawn over the picture. screen: the space of the screen it is shown on, or OWN. press: what is proofed. at_rest:
    whether nothing moves, so that a framed picture may be made of a finer one.
    """

    view: str
    layer: str
    level: float
    rect: Rect
    working: bool = True
    hatch: Hatch = HATCH
    at_rest: bool = False
    against: Stack | None = None
    screen: str = "srgb"
    press: Press | None = None
    exact: bool = False
    """Whether it is made of full-size pixels, whatever the level."""
    soon: bool = False
    """Whether it may come into sight later: nothing that is in use makes room for it."""

    def __post_init__(self) -> None:
        if self.view not in VIEWS:
            raise DocumentError([Fault("view", f"must be one of {', '.join(VIEWS)}")])
        if self.screen not in (OWN, *SCREENS):
            raise DocumentError([Fault("screen", f"must be one of {', '.join(SCREENS)}")])


@dataclass(frozen=True)
class Order:
    """What a tile's key stands for."""

    stack: Stack
    looking: Looking
    tx: int
    ty: int


@dataclass
class InHand:
    """A stroke being drawn. `seen` is how many of its points the page has pixels for; `trail` its coverage so far.

    Points come in order: whoever brings later ones waits under `turn` until the earlier ones are here.
    """

    plate_id: int
    layer: str
    target: str
    stroke: Stroke
    stack: Stack
    trail: Trail
    seen: int = 0
    turn: Condition = field(default_factory=Condition)

    @property
    def bytes(self) -> int:
        """What it keeps."""
        return self.trail.bytes + len(self.stroke.points.packed)
