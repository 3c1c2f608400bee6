"""Families of hues on the ring of OKLCh (CSS Color 4)."""

from __future__ import annotations

from numpy import float32

from glyptic.pixels.compiled import formula, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import hue_of
from glyptic.pixels.shapes import eased
from glyptic.pixels.spaces import Primaries
from glyptic.pixels.vector import ONE, clamp01, root

TURN, HALF_TURN = float32(360), float32(180)
GREY = float32(0.02)
"""The chroma below which a colour fades out of a family: a grey has no hue."""


@formula
def apart(hue: float, centre: float) -> float:
    """Degrees between two hues in -180..180, along the shorter way: 0..180."""
    away = abs(hue - centre)
    return TURN - away if away > HALF_TURN else away


@formula
def belongs(a: float, b: float, centre: float, half: float, border: float) -> float:
    """How far a colour belongs to the family around a hue: fully within `half` degrees of it, then less and less over
    `border` degrees; a grey does not."""
    edge = ONE - eased(clamp01((apart(hue_of(a, b), centre) - half) / border))
    return edge * eased(clamp01(root(a * a + b * b) / GREY))


def centred(degrees: float) -> float:
    """An angle as -180..180."""
    return (degrees + 180) % 360 - 180


def border_of(share: float) -> float:
    """The width in degrees of a family's soft border from its share of a quarter turn; at least one degree."""
    return max(1.0, 90 * share)


@kernel
def hue_seen(red: float, green: float, blue: float, of: Primaries) -> float:
    """The hue in degrees of an encoded colour, -180..180; any for a grey."""
    _, a, b = oklab(float32(red), float32(green), float32(blue), of)
    return hue_of(a, b)
