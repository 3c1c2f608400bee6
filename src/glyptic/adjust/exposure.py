"""Exposure: light scaled by stops, with an offset, in linear light."""

from __future__ import annotations

from glyptic.adjust.kind import Coloured, PointWise, empty_like
from glyptic.params import Real, Schema, Values
from glyptic.pixels.compiled import Planes, kernel
from glyptic.pixels.shapes import Frame
from glyptic.pixels.srgb import enc, lin


@kernel
def _expose(px: Planes, gain: float, offset: float, out: Planes) -> None:
    for c in range(3):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                out[c, i, j] = enc(lin(px[c, i, j]) * gain + offset)


class Exposure(PointWise):
    """enc(lin(x) · 2^stops + offset); nothing is clamped, so a stop up and a stop down lose nothing."""

    name = "exposure"
    title = "Exposure"
    purpose = "Light"
    summary = "More or less light, in stops, as if the shutter had been open longer or shorter."
    schema = Schema(
        {
            "stops": Real(label="Exposure", help="One stop doubles the light.", default=0.0, unit="stops",
                          low=-20, high=20, step=0.05, soft_low=-4, soft_high=4),
            "offset": Real(label="Offset", help="Added in linear light; moves the shadows most.", default=0.0,
                           low=-1, high=1, step=0.001, soft_low=-0.1, soft_high=0.1),
        }
    )  # fmt: skip

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        out = empty_like(px)
        _expose(px, 2.0 ** settings["stops"], settings["offset"], out)
        return Coloured(out)


EXPOSURE = Exposure()
