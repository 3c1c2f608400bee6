"""What one running application keeps in memory: one budget, and the share of it that each part may take."""

from __future__ import annotations

from dataclasses import dataclass

DEFAULT = 1024 * 2**20
LEAST = 128 * 2**20


@dataclass(frozen=True)
class Budget:
    """Bytes that may be kept. What is being worked on comes on top: a picture that is looked at lies in mapped files,
    which the system takes back when it needs the room; a render holds the rows it is at. So do 24 MB whatever the
    budget: pieces of grain and planes of one value.

    tiles: what lies below the layer worked on, paintings, blurs; with the tables made of settings. shown: tiles as the
    page has them. codes, scratch: full-size tiles of the finished picture, and what they are made of, while the hand
    rests. keys: what plans and paintings know of their tiles. hand: strokes being drawn.
    """

    whole: int = DEFAULT

    @property
    def tiles(self) -> int:
        return self.whole * 6 // 16

    @property
    def tables(self) -> int:
        return self.whole // 16

    @property
    def shown(self) -> int:
        return self.whole // 16

    @property
    def codes(self) -> int:
        return self.whole * 3 // 16

    @property
    def scratch(self) -> int:
        return self.whole * 2 // 16

    @property
    def keys(self) -> int:
        return self.whole * 2 // 16

    @property
    def hand(self) -> int:
        return self.whole // 16
