"""Brightness and contrast that hold black and white.

Source: C. Schlick 1994, "Fast alternatives to Perlin's bias and gain functions", Graphics Gems IV.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import PointWise
from glyptic.params import Real, Schema, Values
from glyptic.pixels.tables import Function

WIDEST = 0.4
"""How far from a half the two parameters go: slopes stay between 1/9 and 9."""


def bias(x: NDArray[np.float64], b: float) -> NDArray[np.float64]:
    """Schlick's bias of x in 0..1: moves the middle to b, holds 0 and 1."""
    return x / ((1 / b - 2) * (1 - x) + 1)


def gain(x: NDArray[np.float64], g: float) -> NDArray[np.float64]:
    """Schlick's gain of x in 0..1: an S around the middle, steeper there for g below a half; holds 0, 1/2 and 1."""
    low = bias(np.minimum(2 * x, 1), g) / 2
    high = 1 - bias(np.minimum(2 - 2 * x, 1), g) / 2
    return np.where(x < 0.5, low, high)


class BrightnessContrast(PointWise):
    """gain(bias(x)) per channel in encoded values; beyond 0 and 1 it goes on straight, with the slope it has there."""

    name = "brightness-contrast"
    title = "Brightness & contrast"
    purpose = "Light"
    channelwise = True
    rank = 5
    summary = "Lifts or lowers the middle and steepens or flattens it, while black stays black and white white."
    sample = {"brightness": 0.15, "contrast": 0.45}
    schema = Schema(
        {
            "brightness": Real(label="Brightness", help="Moves the middle; the ends stay.", default=0.0, unit="%",
                               low=-1, high=1, step=0.01),
            "contrast": Real(label="Contrast", help="Parts light from dark around the middle.", default=0.0, unit="%",
                             low=-1, high=1, step=0.01),
        }
    )  # fmt: skip

    def channels(self, settings: Values) -> tuple[Function | None, ...]:
        b, g = 0.5 + WIDEST * settings["brightness"], 0.5 - WIDEST * settings["contrast"]
        first = (1 / b - 1) ** -1 * (1 / (1 / g - 1))
        last = (1 / b - 1) * (1 / (1 / g - 1))

        def move(x: NDArray[np.float64]) -> NDArray[np.float64]:
            inside = gain(bias(np.clip(x, 0, 1), b), g)
            return np.asarray(inside + np.minimum(x, 0) * first + np.maximum(x - 1, 0) * last)

        return (move,) * 3


BRIGHTNESS_CONTRAST = BrightnessContrast()
