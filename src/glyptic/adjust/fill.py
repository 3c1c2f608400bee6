"""Fill: one colour everywhere."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Colour, Schema, Values
from glyptic.pixels.seen import Seen
from glyptic.pixels.tables import Function


def _always(value: float) -> Function:
    def fill(x: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.full_like(x, value)

    return fill


class Fill(PointWise):
    """One colour over the whole picture; with a blend mode such as color it tints."""

    name = "fill"
    title = "Fill"
    purpose = "Fills & shapes"
    covers = True
    summary = "One colour everywhere; in blend mode color it tints."
    picks = (Aid("colour", "Pick a colour", "Press on the picture to fill with the colour there."),)
    sample = {"colour": [0.72, 0.42, 0.2]}
    schema = Schema({"colour": Colour(label="Colour", help="The colour laid over the picture.")})

    def starting(self, width: int, height: int) -> dict[str, Any]:
        return {"colour": [0.5, 0.5, 0.5]}

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        return {"colour": [round(min(max(v, 0.0), 1.0), 4) for v in seen[:3]]}

    def is_neutral(self, settings: Values) -> bool:
        return False

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        return tuple(_always(value) for value in settings["colour"])


FILL = Fill()
