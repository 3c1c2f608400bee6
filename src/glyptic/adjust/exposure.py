"""Exposure: light scaled by stops, with an offset, in linear light."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import PointWise
from glyptic.params import Real, Schema, Values
from glyptic.pixels.tables import Function
from glyptic.pixels.transfer import encoded, linear


class Exposure(PointWise):
    """enc(lin(x) · 2^stops + offset); nothing is clamped, so a stop up and a stop down lose nothing."""

    name = "exposure"
    title = "Exposure"
    purpose = "Light"
    rank = 4
    summary = "More or less light, in stops, as if the shutter had been open longer or shorter."
    sample = {"stops": 0.8}
    schema = Schema(
        {
            "stops": Real(label="Exposure", help="One stop doubles the light.", default=0.0, unit="stops",
                          low=-20, high=20, step=0.05, soft_low=-4, soft_high=4),
            "offset": Real(label="Offset", help="Added in linear light; moves the shadows most.", default=0.0,
                           low=-1, high=1, step=0.001, soft_low=-0.1, soft_high=0.1),
        }
    )  # fmt: skip

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        gain, offset = 2.0 ** settings["stops"], settings["offset"]

        def expose(x: NDArray[np.float64]) -> NDArray[np.float64]:
            return encoded(linear(x) * gain + offset)

        return (expose,) * 3


EXPOSURE = Exposure()
