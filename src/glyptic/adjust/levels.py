"""Levels: black, white and gamma, per channel and for all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import Coloured, PointWise, empty_like
from glyptic.params import Group, Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.shapes import Frame, clamp01

CHANNELS = ("red", "green", "blue")


@kernel
def _levels(plane: Plane, own: NDArray[np.float64], every: NDArray[np.float64], out: Plane) -> None:
    """Each of own and every: black, white, 1/gamma, out_black, out_white; all-default ones are passed over."""
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            x = float(plane[i, j])
            for s in (own, every):
                if s[5] == 0.0:
                    x = s[3] + (s[4] - s[3]) * clamp01((x - s[0]) / (s[1] - s[0])) ** s[2]
            out[i, j] = x


def _black_below_white(values: Values) -> tuple[str, str] | None:
    return ("white", "must be above black") if values["black"] >= values["white"] else None


ENDS = Schema(
    {
        "black": Real(label="Black", help="This value becomes the darkest.", default=0.0, unit="%",
                      low=-10, high=10, step=0.001, soft_low=0, soft_high=1),
        "white": Real(label="White", help="This value becomes the lightest.", default=1.0, unit="%",
                      low=-10, high=10, step=0.001, soft_low=0, soft_high=1),
        "gamma": Real(label="Midtone", help="Above 1 lightens the middle, below 1 darkens it.", default=1.0,
                      above=0, high=1000, step=0.01, soft_low=0.2, soft_high=5),
        "out_black": Real(label="Out black", help="The darkest value left.", default=0.0, unit="%",
                          low=-10, high=10, step=0.001, soft_low=0, soft_high=1),
        "out_white": Real(label="Out white", help="The lightest value left.", default=1.0, unit="%",
                          low=-10, high=10, step=0.001, soft_low=0, soft_high=1),
    },
    checks=(_black_below_white,),
)  # fmt: skip


def _row(ends: Values) -> NDArray[np.float64]:
    neutral = 1.0 if ends == ENDS.defaults else 0.0
    return np.array([ends["black"], ends["white"], 1.0 / ends["gamma"], ends["out_black"], ends["out_white"], neutral])


class Levels(PointWise):
    """out_black + (out_white − out_black) · clamp((x − black)/(white − black))^(1/gamma), own channel then all."""

    name = "levels"
    title = "Levels"
    purpose = "Light"
    summary = "Sets black, white and the middle, for all channels or for one."
    schema = Schema(
        {
            name: Group(label=label, schema=ENDS, default=ENDS.defaults)
            for name, label in (("rgb", "All"), ("red", "Red"), ("green", "Green"), ("blue", "Blue"))
        }
    )

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        every = _row(settings["rgb"])
        out = empty_like(px)
        for c, name in enumerate(CHANNELS):
            own = _row(settings[name])
            if own[5] and every[5]:
                out[c] = px[c]
            else:
                _levels(px[c], own, every, out[c])
        return Coloured(out)


LEVELS = Levels()
