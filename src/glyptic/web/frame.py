"""What the desk shows of the frame, made ready for its template."""

from __future__ import annotations

from dataclasses import dataclass
from math import gcd
from typing import Any

from glyptic.actions.framing import RATIOS
from glyptic.actions.workshop import Current, Workshop
from glyptic.document import fields
from glyptic.document.framing import Crop
from glyptic.document.values import FRAME, Frame

LARGEST_NAMED = 40
"""The largest number that proportions are called by; others are written as one to so much."""


@dataclass(frozen=True)
class FrameDesk:
    """The frame and the declarations its controls are drawn from. turn: degrees; proportions: in words; border: its
    values, those of none where there is none; shorter: the crop's shorter side."""

    frame: Frame
    is_chosen: bool
    turn: float
    proportions: str
    ratios: dict[str, str]
    params: dict[str, Any]
    border: Any
    border_params: dict[str, Any]
    outside: tuple[float, ...]
    shorter: int
    over: int
    beyond: bool
    """Whether something beyond the picture comes in."""

    @property
    def corners(self) -> list[tuple[str, tuple[float, float]]]:
        """The corners with their names."""
        return list(zip(("Top left", "Top right", "Bottom right", "Bottom left"), self.frame.corners, strict=True))


def frame_desk_of(shop: Workshop, current: Current) -> FrameDesk | None:
    """The frame of a state for the desk and the strip; None where it has none."""
    frame = current.stack.frame
    if frame is None:
        return None
    crop = Crop(frame.corners, frame.size)
    canvas = shop.base_of(current.stack).canvas
    return FrameDesk(
        frame=frame, is_chosen=current.chosen == FRAME, turn=crop.turn, proportions=proportions_of(*frame.size),
        ratios=RATIOS, params=dict(fields.FRAME.params), border=frame.settings["border"] or fields.BORDER.defaults,
        border_params=dict(fields.BORDER.params), outside=frame.colours[0], shorter=min(frame.size),
        over=len(frame.layers), beyond=not crop.is_inside(*canvas),
    )  # fmt: skip


def proportions_of(width: int, height: int) -> str:
    """Proportions as they are called: 4:3, or 1.414 : 1."""
    common = gcd(width, height)
    if max(width, height) // common <= LARGEST_NAMED:
        return f"{width // common}:{height // common}"
    longer, shorter = max(width, height), min(width, height)
    text = f"{longer / shorter:.3f}".rstrip("0").rstrip(".")
    return f"{text} : 1" if width >= height else f"1 : {text}"
