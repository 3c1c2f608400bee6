"""Non-separable modes (W3C Compositing and Blending Level 1, section 9.2); colours in 0..1."""

from __future__ import annotations

from numpy import float32

from glyptic.blend.separable import LEAST, ZERO
from glyptic.pixels.compiled import formula
from glyptic.pixels.vector import ONE

RED, GREEN, BLUE = float32(0.3), float32(0.59), float32(0.11)


@formula
def lum(r: float, g: float, b: float) -> float:
    """Lum: the weighted sum of the channels."""
    return RED * r + GREEN * g + BLUE * b


@formula
def greatest(r: float, g: float, b: float) -> float:
    """The largest channel."""
    most = r if r > g else g
    return most if most > b else b


@formula
def least(r: float, g: float, b: float) -> float:
    """The smallest channel."""
    low = r if r < g else g
    return low if low < b else b


@formula
def sat(r: float, g: float, b: float) -> float:
    """Sat: the largest channel less the smallest."""
    return greatest(r, g, b) - least(r, g, b)


@formula
def set_lum(r: float, g: float, b: float, l: float) -> tuple[float, float, float]:
    """SetLum with ClipColor."""
    d = l - lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    l = lum(r, g, b)
    n = least(r, g, b)
    below = l - n
    s = l / (below if below > LEAST else LEAST)
    low = n < ZERO
    r, g, b = l + (r - l) * s if low else r, l + (g - l) * s if low else g, l + (b - l) * s if low else b
    x = greatest(r, g, b)
    above = x - l
    s = (ONE - l) / (above if above > LEAST else LEAST)
    high = x > ONE
    return l + (r - l) * s if high else r, l + (g - l) * s if high else g, l + (b - l) * s if high else b


@formula
def set_sat(r: float, g: float, b: float, s: float) -> tuple[float, float, float]:
    """SetSat: the channels stretched to a saturation, the smallest at 0."""
    low = least(r, g, b)
    span = greatest(r, g, b) - low
    k = s / (span if span > LEAST else LEAST)
    return (r - low) * k, (g - low) * k, (b - low) * k


@formula
def hue(rb: float, gb: float, bb: float, rs: float, gs: float, bs: float) -> tuple[float, float, float]:
    """The hue of the source; saturation and luminosity of the backdrop."""
    r, g, b = set_sat(rs, gs, bs, sat(rb, gb, bb))
    return set_lum(r, g, b, lum(rb, gb, bb))


@formula
def saturation(rb: float, gb: float, bb: float, rs: float, gs: float, bs: float) -> tuple[float, float, float]:
    """The saturation of the source; hue and luminosity of the backdrop."""
    r, g, b = set_sat(rb, gb, bb, sat(rs, gs, bs))
    return set_lum(r, g, b, lum(rb, gb, bb))


@formula
def color(rb: float, gb: float, bb: float, rs: float, gs: float, bs: float) -> tuple[float, float, float]:
    """Hue and saturation of the source; the luminosity of the backdrop."""
    return set_lum(rs, gs, bs, lum(rb, gb, bb))


@formula
def luminosity(rb: float, gb: float, bb: float, rs: float, gs: float, bs: float) -> tuple[float, float, float]:
    """The luminosity of the source; hue and saturation of the backdrop."""
    return set_lum(rb, gb, bb, lum(rs, gs, bs))
