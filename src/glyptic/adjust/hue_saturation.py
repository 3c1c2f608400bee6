"""Hue, saturation and lightness, of all colours or of one family."""

from __future__ import annotations

import math

import numpy as np
from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.params import Angle, Real, Schema, Toggle, Values
from glyptic.params.scalar import share
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fitted, hue_of
from glyptic.pixels.shapes import Frame
from glyptic.pixels.vector import clamp01, root

ONE, TURN, HALF_TURN = float32(1), float32(360), float32(180)
GREY = float32(0.02)
"""The chroma below which a colour fades out of a family: a grey has no hue."""
SATURATED = 0.3
"""The chroma of a tint at full saturation: about that of sRGB's purest."""


@formula
def soft(x: float) -> float:
    """u²(3 − 2u) of u held to 0..1."""
    u = clamp01(x)
    return u * u * (float32(3) - float32(2) * u)


@formula
def belongs(a: float, b: float, chroma: float, centre: float, half: float, border: float) -> float:
    """How far a colour belongs to the family around a hue: fully within `half` degrees of it, then less and less over
    `border` degrees."""
    away = abs(hue_of(a, b) - centre)
    away = TURN - away if away > HALF_TURN else away
    edge = ONE - soft((away - half) / border)
    return edge * soft(chroma / GREY)


@kernel
def _turn(
    px: Planes, alpha: Plane, cos: float, sin: float, saturation: float, lightness: float, centre: float, half: float,
    border: float,
) -> None:  # fmt: skip
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            l, a, b = oklab(red, green, blue)
            chroma = root(a * a + b * b)
            w = ONE if half >= HALF_TURN else belongs(a, b, chroma, centre, half, border)
            more = ONE + w * (saturation - ONE)
            x = a + w * (a * cos - b * sin - a)
            y = b + w * (a * sin + b * cos - b)
            room = ONE - l if lightness > float32(0) else l
            r, g, u = fitted(l + w * lightness * room, x * more, y * more)
            share = alpha[i, j] if w > float32(0) else float32(0)
            px[0, i, j] = red + share * (r - clamp01(red))
            px[1, i, j] = green + share * (g - clamp01(green))
            px[2, i, j] = blue + share * (u - clamp01(blue))


@kernel
def _tint(px: Planes, alpha: Plane, a: float, b: float, lightness: float) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            l, _, _ = oklab(red, green, blue)
            room = ONE - l if lightness > float32(0) else l
            r, g, u = fitted(l + lightness * room, a, b)
            share = alpha[i, j]
            px[0, i, j] = red + share * (r - clamp01(red))
            px[1, i, j] = green + share * (g - clamp01(green))
            px[2, i, j] = blue + share * (u - clamp01(blue))


class HueSaturation(PointWise):
    """In OKLCh (CSS Color 4): the hue turned, C · (1 + saturation), L moved by lightness · (1 − L), or · L where it is
    negative; weighted by how far a colour belongs to the family; brought into range by lowering chroma. As a tint, hue
    and chroma are one for all: chroma 0.3 · (1 + saturation) / 2 at the hue. What lies beyond 0..1 keeps its distance.
    """

    name = "hue-saturation"
    title = "Hue & saturation"
    purpose = "Colour"
    summary = "Turns colours, makes them stronger, paler, lighter or darker: all of them, or one family."
    schema = Schema(
        {
            "hue": Angle(label="Hue", default=0.0, help="Turns every colour on the ring; as a tint, the hue itself."),
            "saturation": Real(label="Saturation", help="At the bottom colours become grey.", default=0.0, unit="%",
                               low=-1, high=2, step=0.01, soft_low=-1, soft_high=1),
            "lightness": Real(label="Lightness", help="Towards white or towards black.", default=0.0, unit="%",
                              low=-1, high=1, step=0.01),
            "tint": Toggle(label="One tint", default=False, help="All in one hue, as a toned print."),
            "centre": Angle(label="Family", default=0.0, help="The middle of the family on the hue ring (OKLCh)."),
            "width": Real(label="Width", help="How much of the ring belongs to it; the whole ring is all colours.",
                          default=360.0, unit="°", low=0, high=360, step=1),
            "border": share("Soft border", "How softly the family ends: a share of a quarter turn.", 0.3),
        }
    )  # fmt: skip

    def is_neutral(self, settings: Values) -> bool:
        moves = settings["hue"] % 360 or settings["saturation"] or settings["lightness"]
        return not (moves or settings["tint"])

    def lay(self, ready: Values, px: Planes, alpha: Plane, frame: Frame) -> None:
        angle, lightness = math.radians(ready["hue"]), np.float32(ready["lightness"])
        cos, sin = math.cos(angle), math.sin(angle)
        if ready["tint"]:
            chroma = SATURATED * (1 + ready["saturation"]) / 2
            _tint(px, alpha, np.float32(chroma * cos), np.float32(chroma * sin), lightness)
            return
        centre = (ready["centre"] + 180) % 360 - 180
        border = max(1.0, 90 * ready["border"])
        _turn(
            px, alpha, np.float32(cos), np.float32(sin), np.float32(1 + ready["saturation"]), lightness,
            np.float32(centre), np.float32(ready["width"] / 2), np.float32(border),
        )  # fmt: skip


HUE_SATURATION = HueSaturation()
