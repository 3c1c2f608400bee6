"""Everything: covers the whole picture, to fill a mask with."""

from __future__ import annotations

import numpy as np

from glyptic.masks.part import Drawn
from glyptic.params import Values
from glyptic.pixels.compiled import Plane
from glyptic.pixels.shapes import Patch


class Everything(Drawn):
    """1 everywhere."""

    name = "everything"
    title = "Everything"
    summary = "The whole picture: fills the mask as far as the parts before it go."

    def coverage(self, settings: Values, patch: Patch) -> Plane:
        return np.ones(patch.shape, np.float32)

    def known(self, settings: Values, patch: Patch) -> float | None:
        return 1.0


EVERYTHING = Everything()
