"""What is wanted of a picture file besides its pixels."""

from __future__ import annotations

from dataclasses import dataclass

from glyptic.base.digests import digest
from glyptic.document.reading import DEVELOPMENT, READING
from glyptic.params import Values
from glyptic.pixels.spaces import SPACES, Space


@dataclass(frozen=True)
class Wish:
    """into: the working space, None for the smallest that holds the picture. assumed: what values mean of which the
    file says nothing, None for `into`, or sRGB. page: of a file that holds several, from 1. development: of a raw
    file."""

    into: Space | None = None
    assumed: Space | None = None
    page: int = 1
    development: Values = DEVELOPMENT.defaults

    @classmethod
    def of(cls, space: str | None, reading: Values | None) -> Wish:
        """For a layer's picture in a working space."""
        found = reading or READING.defaults
        into = SPACES[space] if space else None
        assumed = SPACES[found["assumed"]] if found["assumed"] else None
        return cls(into, assumed, int(found["page"]), found["development"])

    @property
    def name(self) -> str:
        """A short name of all that makes it other than the usual wish for sRGB; '' for that."""
        if self == Wish(SPACES["srgb"]):
            return ""
        names = (space.name if space else "" for space in (self.into, self.assumed))
        return digest(*names, self.page, DEVELOPMENT.digest(self.development)).hex()


ANY = Wish()
