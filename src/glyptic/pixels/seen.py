"""What is seen where the hand presses on the picture."""

from __future__ import annotations

from typing import NamedTuple

from glyptic.pixels.hues import hue_seen
from glyptic.pixels.spaces import Space


class Seen(NamedTuple):
    """What reaches a layer at a spot: encoded red, green, blue and tone, and the space they are of."""

    red: float
    green: float
    blue: float
    tone: float
    space: Space

    @property
    def hue(self) -> float:
        """Degrees 0..360 in OKLCh; any for a grey."""
        return float(hue_seen(self.red, self.green, self.blue, self.space.of)) % 360
