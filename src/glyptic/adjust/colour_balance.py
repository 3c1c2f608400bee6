"""Colour balance of shadows, midtones and highlights, with tone held."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.params import Group, Real, Schema, Toggle, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.relit import mix_row
from glyptic.pixels.shapes import Patch, eased
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.tones import move_light
from glyptic.pixels.transfer import tone_of
from glyptic.pixels.vector import ONE, clamp01

RANGES = ("shadows", "midtones", "highlights")
CHANNELS = (("red", "cyan"), ("green", "magenta"), ("blue", "yellow"))
STRONGEST = 0.2
"""What a full move adds to a channel, in encoded values."""
FADE = float32(1 / 0.45)
SHADOWS_FROM, LIGHTS_FROM = float32(0.1), float32(0.45)


@kernel
def _balance(px: Planes, alpha: Plane, moves: Planes, holds: bool, of: Primaries) -> None:
    """moves: (3 ranges, 3 channels, 1)."""
    w = px.shape[2]
    moved, room, whole = np.empty((3, 1, w), np.float32), np.empty((3, w), np.float32), np.ones(w, np.float32)
    lights = np.empty((2, w), np.float32)
    before, after = lights[0], lights[1]
    for i in range(px.shape[1]):
        for j in range(w):
            r, g, b = px[0, i, j], px[1, i, j], px[2, i, j]
            y = luminance(r, g, b, of)
            t = tone_of(y)
            dark = ONE - eased(clamp01((t - SHADOWS_FROM) * FADE))
            bright = eased(clamp01((t - LIGHTS_FROM) * FADE))
            middle = ONE - dark - bright
            red = r + dark * moves[0, 0, 0] + middle * moves[1, 0, 0] + bright * moves[2, 0, 0]
            green = g + dark * moves[0, 1, 0] + middle * moves[1, 1, 0] + bright * moves[2, 1, 0]
            blue = b + dark * moves[0, 2, 0] + middle * moves[1, 2, 0] + bright * moves[2, 2, 0]
            moved[0, 0, j], moved[1, 0, j], moved[2, 0, j] = red, green, blue
            before[j], after[j] = luminance(red, green, blue, of), y
        if holds:
            move_light(moved, 0, whole, before, after, room)
        for c in range(3):
            mix_row(px[c, i], moved[c, 0], alpha[i])


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
    channelwise = True
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

    def ready(self, settings: Values, space: Space) -> tuple[Planes, bool, Primaries]:
        moves = [[[STRONGEST * settings[name][up]] for up, _ in CHANNELS] for name in RANGES]
        return np.array(moves, np.float32), settings["hold_tone"], space.of

    def lay(self, ready: tuple[Planes, bool, Primaries], px: Planes, alpha: Plane, patch: Patch) -> None:
        _balance(px, alpha, *ready)


COLOUR_BALANCE = ColourBalance()
