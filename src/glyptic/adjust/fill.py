"""Fill: one colour everywhere."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.adjust.kind import Coloured, PointWise, empty_like
from glyptic.params import Colour, Schema, Values
from glyptic.pixels.compiled import Planes
from glyptic.pixels.shapes import Frame


class Fill(PointWise):
    """One colour over the whole picture; with a blend mode such as color it tints."""

    name = "fill"
    title = "Fill"
    purpose = "Fills & shapes"
    summary = "One colour everywhere; in blend mode color it tints."
    schema = Schema({"colour": Colour(label="Colour", help="The colour laid over the picture.")})

    def starting(self, width: int, height: int) -> dict[str, Any]:
        return {"colour": [0.5, 0.5, 0.5]}

    def is_neutral(self, settings: Values) -> bool:
        return False

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        out = empty_like(px)
        out[:] = np.asarray(settings["colour"], np.float32)[:, None, None]
        return Coloured(out)


FILL = Fill()
