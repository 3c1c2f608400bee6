"""Non-separable modes (W3C Compositing and Blending Level 1, section 9.2); colours in 0..1."""

from __future__ import annotations

from glyptic.pixels.compiled import formula

Rgb = tuple[float, float, float]


@formula
def lum(r: float, g: float, b: float) -> float:
    return 0.3 * r + 0.59 * g + 0.11 * b


@formula
def sat(r: float, g: float, b: float) -> float:
    return max(r, g, b) - min(r, g, b)


@formula
def set_lum(r: float, g: float, b: float, l: float) -> Rgb:
    """SetLum with ClipColor."""
    d = l - lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    l = lum(r, g, b)
    n, x = min(r, g, b), max(r, g, b)
    if n < 0.0:
        s = l / (l - n)
        r, g, b = l + (r - l) * s, l + (g - l) * s, l + (b - l) * s
    if x > 1.0:
        s = (1.0 - l) / (x - l)
        r, g, b = l + (r - l) * s, l + (g - l) * s, l + (b - l) * s
    return r, g, b


@formula
def set_sat(r: float, g: float, b: float, s: float) -> Rgb:
    low = min(r, g, b)
    span = max(r, g, b) - low
    if span <= 0.0:
        return 0.0, 0.0, 0.0
    k = s / span
    return (r - low) * k, (g - low) * k, (b - low) * k


@formula
def hue(cb: Rgb, cs: Rgb) -> Rgb:
    r, g, b = set_sat(cs[0], cs[1], cs[2], sat(cb[0], cb[1], cb[2]))
    return set_lum(r, g, b, lum(cb[0], cb[1], cb[2]))


@formula
def saturation(cb: Rgb, cs: Rgb) -> Rgb:
    r, g, b = set_sat(cb[0], cb[1], cb[2], sat(cs[0], cs[1], cs[2]))
    return set_lum(r, g, b, lum(cb[0], cb[1], cb[2]))


@formula
def color(cb: Rgb, cs: Rgb) -> Rgb:
    return set_lum(cs[0], cs[1], cs[2], lum(cb[0], cb[1], cb[2]))


@formula
def luminosity(cb: Rgb, cs: Rgb) -> Rgb:
    return set_lum(cb[0], cb[1], cb[2], lum(cs[0], cs[1], cs[2]))
