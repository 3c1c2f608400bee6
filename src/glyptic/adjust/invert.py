"""Invert: light for dark and every colour for its opposite."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import PointWise
from glyptic.params import Schema, Values
from glyptic.params.scalar import share
from glyptic.pixels.tables import Function


class Invert(PointWise):
    """Cs = x + strength · (1 − 2x) in encoded values, unclamped: twice at full strength gives the picture back."""

    name = "invert"
    title = "Invert"
    purpose = "Light"
    channelwise = True
    rank = 9
    summary = "Turns light into dark and colours into their opposites, as a negative does."
    sample = {"strength": 1}
    schema = Schema({"strength": share("Strength", "At a half everything is one grey, at full it is a negative.", 0.0)})

    def starting(self, width: int, height: int) -> dict[str, Any]:
        """At full strength: nobody adds it for anything else."""
        return {"strength": 1}

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        strength = settings["strength"]

        def invert(x: NDArray[np.float64]) -> NDArray[np.float64]:
            return np.asarray(x + strength * (1 - 2 * x))

        return (invert,) * 3


INVERT = Invert()
