"""Grey layers: 50 % grey that changes nothing until it is painted lighter or darker."""

from __future__ import annotations

import numpy as np

from glyptic.adjust.kind import Kind
from glyptic.blend import mix
from glyptic.blend.non_separable import Rgb
from glyptic.document.fields import TONE_WINDOW, in_order
from glyptic.params import Group, Schema, Toggle, Values
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.shapes import clamp01, window
from glyptic.pixels.srgb import BLACK, enc, lin, luminance, tone_of

NEUTRAL = 0.5
NEUTRAL_MODES = ("soft-light", "overlay", "hard-light")
"""The modes in which 50 % grey changes nothing."""


@kernel
def _within_reach(
    grey: Plane, px: Planes, low: float, high: float, soft_low: float, soft_high: float, out: Plane
) -> None:
    for i in range(grey.shape[0]):
        for j in range(grey.shape[1]):
            g = grey[i, j]
            if g != 0.5:
                t = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j]))
                g = 0.5 + (g - 0.5) * window(low, high, soft_low, soft_high, t)
            out[i, j] = g


@formula
def _into_range(value: float, y: float, k: float) -> float:
    return clamp01(enc(y + (value - y) * k))


@formula
def _held(below: Rgb, blended: Rgb) -> Rgb:
    """The colour of `below` in linear light at the luminance of `blended`, drawn towards grey to fit 0..1."""
    y_below = luminance(below[0], below[1], below[2])
    y = min(luminance(blended[0], blended[1], blended[2]), 1.0)
    r, g, b = y, y, y
    if y_below > BLACK:
        scale = y / y_below
        r, g, b = lin(below[0]) * scale, lin(below[1]) * scale, lin(below[2]) * scale
    top = max(r, g, b)
    k = (1.0 - y) / (top - y) if top > 1.0 else 1.0
    return _into_range(r, y, k), _into_range(g, y, k), _into_range(b, y, k)


@kernel
def _finish(px: Planes, blended: Planes, grey: Plane, alpha: Plane, keeps_grey: bool, hold: bool) -> None:
    """C = Cb + a (B − Cb'), Cb' the clamped backdrop; where grey is neutral every bit is kept."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            a = alpha[i, j]
            if a == 0.0 or (keeps_grey and grey[i, j] == 0.5):
                continue
            below = (clamp01(px[0, i, j]), clamp01(px[1, i, j]), clamp01(px[2, i, j]))
            new = (float(blended[0, i, j]), float(blended[1, i, j]), float(blended[2, i, j]))
            if hold:
                new = _held(below, new)
            px[0, i, j] += a * (new[0] - below[0])
            px[1, i, j] += a * (new[1] - below[1])
            px[2, i, j] += a * (new[2] - below[2])


class Grey(Kind):
    """Lightens where it is painted lighter than 50 % and darkens where it is darker (computation.md, Grey layer)."""

    name = "grey"
    title = "Grey layer"
    purpose = "Dodge & burn"
    summary = "A neutral layer to dodge and burn on: paint lighter or darker, the picture below follows."
    schema = Schema(
        {
            "hold_colour": Toggle(label="Hold colour", default=False,
                                  help="Only tone changes; hue and saturation stay those of the picture."),
            "reach": Group(label="Reach", schema=Schema(TONE_WINDOW, checks=(in_order,)), nullable=True, default=None,
                           help="Work only in a range of tone."),
        }
    )  # fmt: skip
    default_blend = "soft-light"
    carries = "strokes"

    def is_neutral(self, settings: Values) -> bool:
        return False

    def apply(self, settings: Values, mode: str, px: Planes, painted: Plane, alpha: Plane) -> None:
        """Dodge and burn `px` (3, h, w) in place; painted: (h, w), 0.5 where nothing is to change."""
        window_of = settings["reach"]
        if window_of is not None:
            within = np.empty_like(painted)
            _within_reach(
                painted,
                px,
                window_of["low"],
                window_of["high"],
                window_of["soft_low"],
                window_of["soft_high"],
                within,
            )
            painted = within
        blended = np.clip(px, 0, 1)
        mix(blended, np.broadcast_to(painted, px.shape).copy(), np.ones_like(alpha), mode)
        _finish(px, blended, painted, alpha, mode in NEUTRAL_MODES, settings["hold_colour"])


GREY = Grey()
