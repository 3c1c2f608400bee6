"""Levels: black, white and gamma, per channel and for all."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Group, Real, Schema, Values
from glyptic.pixels.counts import percentile
from glyptic.pixels.seen import Seen
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


CUT = 0.001
"""The share of pixels at either end that auto lets go."""
LEAST_APART = 0.01
NARROWEST, WIDEST = 0.1, 10.0
"""How far a picked grey moves the midtone."""
DARKEST = 0.005


def _aids(title: str, what: str) -> tuple[Aid, ...]:
    name = title.rsplit(maxsplit=1)[-1].lower()
    return (
        Aid(name, title, f"Press on what should be {what}; colours stay."),
        Aid(f"{name}-each", title, f"Press on what should be {what}, without a cast: each channel is set."),
    )


def _within(ends: Values, value: float) -> float:
    """Where between black and white a value lies, kept off both."""
    return float(min(max((value - ends["black"]) / (ends["white"] - ends["black"]), DARKEST), 1 - DARKEST))


def _turned(ends: Values) -> Values:
    """The inverse of one set of ends; where what comes out is upside down, or one value, only the midtone turns."""
    turned = {**ends, "gamma": 1 / ends["gamma"]}
    if ends["out_black"] < ends["out_white"]:
        turned |= {"black": ends["out_black"], "white": ends["out_white"]}
        turned |= {"out_black": ends["black"], "out_white": ends["white"]}
    return Values(turned)


def _held(gamma: float) -> float:
    return round(min(max(gamma, NARROWEST), WIDEST), 4)


class Levels(PointWise):
    """out_black + (out_white − out_black) · clamp((x − black)/(white − black))^(1/gamma), own channel then all."""

    name = "levels"
    title = "Levels"
    purpose = "Light"
    channelwise = True
    rank = 2
    summary = "Sets black, white and the middle, for all channels or for one."
    sample = {"rgb": {"black": 0.06, "white": 0.9, "gamma": 1.15}}
    schema = Schema(
        {
            name: Group(label=label, schema=ENDS, default=ENDS.defaults)
            for name, label in (("rgb", "All"), ("red", "Red"), ("green", "Green"), ("blue", "Blue"))
        }
    )

    picks = (*_aids("Pick black", "black"), *_aids("Pick grey", "middle grey"), *_aids("Pick white", "white"))
    autos = (
        Aid("tone", "Auto", "Pulls both ends in to where the picture's tones begin and end; colours stay."),
        Aid("each", "Auto", "Pulls the ends of each channel in, which also takes away a cast."),
    )

    def _changed(self, settings: Values, name: str, **values: float) -> dict[str, Any]:
        return {name: ENDS.plain(settings[name]) | values}

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        """Black and white set the end at the spot's value; grey sets the midtone so that the spot becomes 50 %, or, for
        each channel, equal in all three."""
        what, _, each = name.partition("-")
        if what != "grey":
            values = dict(zip(CHANNELS, seen[:3], strict=True)) if each else {"rgb": sum(seen[:3]) / 3}
            changed: dict[str, Any] = {}
            for channel, value in values.items():
                changed |= self._changed(settings, channel, **self._end(settings[channel], what, value))
            return changed
        if not each:
            own = [_moved(settings[c]) for c in CHANNELS]
            through = [v if f is None else float(f(np.array(v))) for f, v in zip(own, seen[:3], strict=True)]
            inside = _within(settings["rgb"], sum(through) / 3)
            return self._changed(settings, "rgb", gamma=_held(math.log(inside) / math.log(0.5)))
        inside_each = [_within(settings[c], v) for c, v in zip(CHANNELS, seen[:3], strict=True)]
        grey = sum(inside_each) / 3
        changed = {}
        for channel, value in zip(CHANNELS, inside_each, strict=True):
            changed |= self._changed(settings, channel, gamma=_held(math.log(value) / math.log(grey)))
        return changed

    def _end(self, ends: Values, what: str, value: float) -> dict[str, float]:
        """The end moved to a value, and held apart from the other."""
        if what == "black":
            return {"black": round(min(value, ends["white"] - LEAST_APART), 4)}
        return {"white": round(max(value, ends["black"] + LEAST_APART), 4)}

    def auto(self, settings: Values, name: str, counts: Mapping[str, NDArray[np.float64]]) -> dict[str, Any]:
        changed: dict[str, Any] = {}
        for channel in ("rgb",) if name == "tone" else CHANNELS:
            low, high = percentile(counts[channel], CUT), percentile(counts[channel], 1 - CUT)
            ends = {"black": round(low, 4), "white": round(max(high, low + LEAST_APART), 4)}
            changed |= self._changed(settings, channel, **ends)
        return changed

    def opposite(self, settings: Values) -> Values:
        """Ends and out ends change places; the midtone is moved as far the other way."""
        return Values({name: _turned(ends) for name, ends in settings.items()})

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        every = _moved(settings["rgb"])
        return tuple(chained(_moved(settings[name]), every) for name in CHANNELS)


LEVELS = Levels()
