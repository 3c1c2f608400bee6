"""Colour balance of shadows, midtones and highlights, with tone held."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.params import Group, Real, Schema, Toggle, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.shapes import Frame, eased
from glyptic.pixels.srgb import BLACK, LEAST, PER_GAMMA, enc, lit, luminance, tone_of
from glyptic.pixels.vector import ONE, clamp01, power

RANGES = ("shadows", "midtones", "highlights")
CHANNELS = (("red", "cyan"), ("green", "magenta"), ("blue", "yellow"))
STRONGEST = 0.2
"""What a full move adds to a channel, in encoded values."""
FADE = float32(1 / 0.45)
SHADOWS_FROM, LIGHTS_FROM = float32(0.1), float32(0.45)


@kernel
def _balance(px: Planes, alpha: Plane, moves: Planes, holds: bool) -> None:
    """moves: (3 ranges, 3 channels, 1)."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b, a = px[0, i, j], px[1, i, j], px[2, i, j], alpha[i, j]
            y = luminance(r, g, b)
            t = tone_of(y)
            dark = ONE - eased(clamp01((t - SHADOWS_FROM) * FADE))
            bright = eased(clamp01((t - LIGHTS_FROM) * FADE))
            middle = ONE - dark - bright
            red = r + dark * moves[0, 0, 0] + middle * moves[1, 0, 0] + bright * moves[2, 0, 0]
            green = g + dark * moves[0, 1, 0] + middle * moves[1, 1, 0] + bright * moves[2, 1, 0]
            blue = b + dark * moves[0, 2, 0] + middle * moves[1, 2, 0] + bright * moves[2, 2, 0]
            if holds:
                now = luminance(red, green, blue)
                gain = y / (now if now > BLACK else BLACK)
                root = power(gain if gain > LEAST else LEAST, PER_GAMMA)
                coloured = now > BLACK
                grey = enc(y)
                red = lit(red, gain, root) if coloured else grey
                green = lit(green, gain, root) if coloured else grey
                blue = lit(blue, gain, root) if coloured else grey
            px[0, i, j] = r + a * (red - r)
            px[1, i, j] = g + a * (green - g)
            px[2, i, j] = b + a * (blue - b)


def _moves(name: str) -> Group:
    schema = Schema(
        {
            up: Real(label=up.title(), help=f"Above 0 towards {up}, below 0 towards {down}.", default=0.0, unit="%",
                     low=-1, high=1, step=0.01, ends=(down, up))
            for up, down in CHANNELS
        }
    )  # fmt: skip
    return Group(label=name.title(), schema=schema, default=schema.defaults)


class ColourBalance(PointWise):
    """Each channel + 0.2 · Σ weight · move, encoded; the weights of shadows, midtones and highlights add up to 1 at
    every tone t: 1 − smoothstep(0.1, 0.55, t), the rest, and smoothstep(0.45, 0.9, t). With tone held, the linear
    light is then scaled to the luminance it had."""

    name = "colour-balance"
    title = "Colour balance"
    purpose = "Colour"
    rank = 4
    summary = "Warms or cools shadows, midtones and highlights, each on its own."
    sample = {"shadows": {"blue": 0.5, "red": -0.2}, "highlights": {"red": 0.4, "blue": -0.5}}
    schema = Schema(
        {
            **{name: _moves(name) for name in RANGES},
            "hold_tone": Toggle(label="Hold tone", default=True, help="Only colour changes; the light stays as it is."),
        }
    )

    def is_neutral(self, settings: Values) -> bool:
        return not any(any(settings[name].values()) for name in RANGES)

    def ready(self, settings: Values) -> tuple[Planes, bool]:
        moves = [[[STRONGEST * settings[name][up]] for up, _ in CHANNELS] for name in RANGES]
        return np.array(moves, np.float32), settings["hold_tone"]

    def lay(self, ready: tuple[Planes, bool], px: Planes, alpha: Plane, frame: Frame) -> None:
        _balance(px, alpha, *ready)


COLOUR_BALANCE = ColourBalance()
