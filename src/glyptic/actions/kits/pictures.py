"""The pictures of a data folder, for layers that come from elsewhere."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.kits.fitting import backdrop_of
from glyptic.actions.open_picture import keep_grey
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.pixels.pyramid import Picture


class KeptPictures:
    """The pictures of a data folder, for layers that go onto one of its plates (see `fitting.Pictures`). base: the
    picture of that plate. notes: what is to be said of what was found."""

    def __init__(self, workshop: Workshop, base: str = "") -> None:
        self.workshop = workshop
        self.base = base
        self.notes: list[str] = []

    def own(self, source: str) -> str:
        """Every picture is known by its hash wherever it is used; raises DocumentError for one that is not here."""
        try:
            self.workshop.picture(source)
        except GlypticError as error:
            raise DocumentError([Fault("layers", f"refer to a picture that is not here ({error})")]) from error
        return source

    def read(self, source: str) -> Picture:
        """A picture by its hash."""
        return self.workshop.picture(source)

    def keep(self, codes: NDArray[np.uint8], name: str) -> str:
        """A grey picture (h, w) as one of the data folder's."""
        return keep_grey(self.workshop, codes, name)

    def backdrop(self) -> str:
        """The backdrop of the plate's picture, found once while it is kept."""
        shop = self.workshop
        found = shop.backdrops.get(self.base)
        if found is None or not shop.store.assets.refresh(found[0]):
            codes, poor = backdrop_of(self.read(self.base))
            found = shop.backdrops.put(self.base, (self.keep(codes, "backdrop.png"), poor))
        if found[1]:
            self.notes.append(found[1])
        return found[0]
