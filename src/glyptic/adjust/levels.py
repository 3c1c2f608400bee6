"""Levels: black, white and gamma, per channel and for all."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import PointWise
from glyptic.params import Group, Real, Schema, Values
from glyptic.pixels.tables import Function, chained

CHANNELS = ("red", "green", "blue")


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


def _moved(ends: Values) -> Function | None:
    """The function of one set of ends; None for the neutral ones."""
    if ends == ENDS.defaults:
        return None

    def move(x: NDArray[np.float64]) -> NDArray[np.float64]:
        inside = np.clip((x - ends["black"]) / (ends["white"] - ends["black"]), 0, 1)
        return np.asarray(ends["out_black"] + (ends["out_white"] - ends["out_black"]) * inside ** (1 / ends["gamma"]))

    return move


class Levels(PointWise):
    """out_black + (out_white − out_black) · clamp((x − black)/(white − black))^(1/gamma), own channel then all."""

    name = "levels"
    title = "Levels"
    purpose = "Light"
    rank = 2
    summary = "Sets black, white and the middle, for all channels or for one."
    sample = {"rgb": {"black": 0.06, "white": 0.9, "gamma": 1.15}}
    schema = Schema(
        {
            name: Group(label=label, schema=ENDS, default=ENDS.defaults)
            for name, label in (("rgb", "All"), ("red", "Red"), ("green", "Green"), ("blue", "Blue"))
        }
    )

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        every = _moved(settings["rgb"])
        return tuple(chained(_moved(settings[name]), every) for name in CHANNELS)


LEVELS = Levels()
