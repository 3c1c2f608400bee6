"""As printed: the picture as a press would print it, with marks where the press cannot hold its colours."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy import float32

from glyptic.analysis.difference import changes
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.maps import Ink, Map
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space

HELD = 2.5
"""CIEDE2000 up to which a colour counts as held by a press."""
CANNOT: Ink = (0.93, 0.22, 0.62)
STRIPE = 6
"""Pixels of a level from one mark's line to the next."""
Printing = Callable[[Planes, Space], Planes]
"""Encoded values (3, h, w) of a working space, 0..1, to the same as they are printed."""


@dataclass(frozen=True)
class Press:
    """A press to be proofed. key: of everything that decides what it prints; shown: as it is seen, nearest: the nearest
    colours it has; marks: whether what it cannot hold is marked."""

    key: bytes
    shown: Printing
    nearest: Printing
    marks: bool = True

    def beyond(self, px: Planes, space: Space) -> Plane:
        """How far (h, w) the nearest colours of the press are off, in CIEDE2000."""
        given = np.clip(px, 0, 1)
        return changes(given, self.nearest(given, space), space)[0]


class AsPrinted(Map):
    """A picture as it is printed."""

    def __init__(self, picture: Node, press: Press) -> None:
        super().__init__(digest("printed", press.key, press.marks, HELD, *CANNOT), picture)
        self.press = press

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = np.clip(reader.read(self.picture, rect)[:3], 0, 1)
        out = self.press.shown(px, self.space)
        if self.press.marks:
            across = (np.arange(rect.x, rect.right)[None, :] + np.arange(rect.y, rect.bottom)[:, None]) % STRIPE
            marked = (self.press.beyond(px, self.space) > HELD) & (across < STRIPE // 2)
            out[:, marked] = np.array(CANNOT, float32)[:, None]
        return out
