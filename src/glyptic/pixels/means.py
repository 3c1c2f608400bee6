"""Means of full-size codes: what a picture is at a level, once it is made at its full size."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.base.rectangles import Canvas, Rect, step_of
from glyptic.pixels.areas import Areas
from glyptic.pixels.compiled import Planes

DEPTH = 16


class Means:
    """Gathers the 16-bit codes of a rectangle of a level of a canvas, in full-size pixels."""

    def __init__(self, rect: Rect, level: float, canvas: Canvas) -> None:
        self._areas = Areas(rect, step_of(level), canvas, 3)

    def add(self, codes: NDArray[np.uint16], at: Rect) -> None:
        """Codes (h, w, 3) of a rectangle in full-size pixels; what is beyond what is gathered does not count."""
        self._areas.add(np.moveaxis(codes, 2, 0), at)

    def planes(self) -> Planes:
        """(3, h, w) the mean of each pixel of the level, 0..1."""
        return self._areas.planes()
