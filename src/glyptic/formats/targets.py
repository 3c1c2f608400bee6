"""What the colours of a written file are of: the working space, another one, or whatever a profile is about."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from glyptic.base.errors import ExportError
from glyptic.document.delivery import INTENTS
from glyptic.engine.bands import Codes, plain_codes
from glyptic.formats.icc import of_space
from glyptic.formats.profiles import CHANNELS, describe, is_as, model_of, transformed
from glyptic.pixels.compiled import Planes
from glyptic.pixels.quantise import Samples, rounded, to_codes
from glyptic.pixels.spaces import SPACES_IN_ORDER, Space, carried

COMPENSATES = 0x2000
"""What tells LittleCMS to compensate for the black point."""


@dataclass(frozen=True)
class Target:
    """profile: of the colours that come out, which is embedded. intent: of INTENTS; black_point: whether the darkest of
    one is carried to the darkest of the other."""

    profile: bytes
    intent: str = "relative"
    black_point: bool = True

    def __post_init__(self) -> None:
        if self.model not in ("rgb", "cmyk"):
            raise ExportError("That profile is about neither RGB nor inks; nothing was written. Choose another.")

    @classmethod
    def of(cls, space: Space) -> Target:
        return cls(of_space(space))

    @property
    def model(self) -> str:
        return model_of(self.profile)

    @property
    def channels(self) -> int:
        return CHANNELS[self.model]

    @property
    def name(self) -> str:
        return describe(self.profile) or "an unnamed profile"

    @property
    def space(self) -> Space | None:
        """The working space that the profile is of, where it is."""
        return next((space for space in SPACES_IN_ORDER if is_as(self.profile, space)), None)

    def codes_from(self, source: Space) -> Codes:
        """How values of a working space become codes of this: as they are, by the spaces' own matrices, or by
        LittleCMS; rounded once."""
        space = self.space
        if space is source:
            return plain_codes
        if space is not None:
            return lambda px, depth, rect: to_codes(carried(np.clip(px, 0, 1), source, space).astype(np.float32), depth)
        return lambda px, depth, rect: self._by_profile(px, depth, source)

    def _by_profile(self, px: Planes, depth: int, source: Space) -> Samples:
        found = self.shares(px, source)
        return rounded(found, (1 << depth) - 1).astype(np.uint8 if depth == 8 else np.uint16)

    def shares(self, px: Planes, source: Space) -> np.ndarray:
        """Values (h, w, channels) of 0..1 of what comes out; inks as shares of full coverage."""
        given = np.moveaxis(np.clip(px, 0, 1), 0, 2)
        flags = COMPENSATES if self.black_point and self.intent != "absolute" else 0
        return transformed(
            given, of_space(source), self.profile, ("rgb", self.model), intent=INTENTS[self.intent], flags=flags
        )
