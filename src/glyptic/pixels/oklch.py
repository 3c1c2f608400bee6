"""Oklab back to encoded values, and colours brought into the picture's range by lowering their chroma.

Sources: B. Ottosson 2020, "A perceptual color space for image processing" (the inverse matrices); CSS Color 4, section
13 (gamut mapping at constant lightness and hue, by lowering chroma).
"""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.pixels.compiled import Plane, Planes, Row, formula
from glyptic.pixels.spaces import Primaries
from glyptic.pixels.transfer import enc_positive
from glyptic.pixels.vector import clamp01

LA, LB = float32(0.3963377774), float32(0.2158037573)
MA, MB = float32(-0.1055613458), float32(-0.0638541728)
SA, SB = float32(-0.0894841775), float32(-1.2914855480)
INSIDE_LOW, INSIDE_HIGH = float32(-1e-6), float32(1 + 1e-6)
HALVINGS = 6
"""Of the interval in which the chroma is looked for, before a straight line is drawn through what is left of it: the
result is within 1e-4 of what was wanted (tests/pixels/test_oklch.py)."""
PIECE = 32
"""Pixels of a row that are looked at together."""
ONE, HALF, NOTHING, THREE = float32(1), float32(0.5), float32(0), float32(3)


@formula
def light(l: float, a: float, b: float, of: Primaries) -> tuple[float, float, float]:
    """Linear r, g, b of Oklab's L, a, b."""
    p = l + LA * a + LB * b
    q = l + MA * a + MB * b
    s = l + SA * a + SB * b
    p, q, s = p * p * p, q * q * q, s * s * s
    red = of.red_l * p + of.red_m * q + of.red_s * s
    green = of.green_l * p + of.green_m * q + of.green_s * s
    return red, green, of.blue_l * p + of.blue_m * q + of.blue_s * s


@formula
def _beyond(red: float, green: float, blue: float) -> bool:
    """Whether linear r, g, b lie outside the range of the space."""
    low = min(min(red, green), blue)  # noqa: PLW3301  of three they are compiled as a loop
    high = max(max(red, green), blue)  # noqa: PLW3301
    return low < INSIDE_LOW or high > INSIDE_HIGH


@formula
def _leaves(inside: float, outside: float) -> float:
    """Where, from a value inside the range to one outside, the range is left, on a straight line: 0..1, 1 if it is
    not."""
    room = (ONE if outside > ONE else NOTHING) - inside
    way = outside - inside
    leaves = outside > ONE or outside < NOTHING
    return clamp01(room / way) if leaves else ONE


Cubic = tuple[float, float, float, float]
"""The four terms of a polynomial, the constant one first."""


@formula
def _cubic(l: float, p: float, q: float, s: float, of_p: float, of_q: float, of_s: float) -> Cubic:
    """A channel of linear light, of_p · (l + p x)³ + of_q · (l + q x)³ + of_s · (l + s x)³ with factors that add up to
    1, as a cubic of x."""
    one, two, three = of_p * p, of_q * q, of_s * s
    first, second, third = one + two + three, one * p + two * q + three * s, one * p * p + two * q * q + three * s * s
    return l * l * l, THREE * l * l * first, THREE * l * second, third


@formula
def _at(x: float, cubic: Cubic) -> float:
    return ((cubic[3] * x + cubic[2]) * x + cubic[1]) * x + cubic[0]


@formula
def _share(l: float, a: float, b: float, of: Primaries) -> float:
    """How much of its chroma a colour outside the range can keep. First the interval is halved, then each channel is a
    straight line."""
    p, q, s = LA * a + LB * b, MA * a + MB * b, SA * a + SB * b
    red = _cubic(l, p, q, s, of.red_l, of.red_m, of.red_s)
    green = _cubic(l, p, q, s, of.green_l, of.green_m, of.green_s)
    blue = _cubic(l, p, q, s, of.blue_l, of.blue_m, of.blue_s)
    low, high = NOTHING, ONE
    for _ in range(HALVINGS):
        middle = (low + high) * HALF
        outside = _beyond(_at(middle, red), _at(middle, green), _at(middle, blue))
        high = middle if outside else high
        low = low if outside else middle
    of_red = _leaves(_at(low, red), _at(high, red))
    of_green = _leaves(_at(low, green), _at(high, green))
    of_blue = _leaves(_at(low, blue), _at(high, blue))
    return low + (high - low) * min(min(of_red, of_green), of_blue)  # noqa: PLW3301


@formula
def _keep_inside(l: Row, a: Row, b: Row, red: Row, green: Row, blue: Row, outside: Row, of: Primaries) -> None:
    """Lower the chroma of those colours of a piece of a row that lie outside, as far as it takes: red, green, blue
    become their linear light."""
    for j in range(l.shape[0]):
        share = _share(l[j], a[j], b[j], of)
        lit = light(l[j], a[j] * share, b[j] * share, of)
        is_outside = outside[j] > NOTHING
        red[j] = lit[0] if is_outside else red[j]
        green[j] = lit[1] if is_outside else green[j]
        blue[j] = lit[2] if is_outside else blue[j]


@formula
def fit(l: Row, a: Row, b: Row, room: Plane, of: Primaries) -> None:
    """Rows of Oklab's L, a, b become encoded r, g, b in 0..1, in place: L is held to 0..1, and chroma is lowered as far
    as it takes. How far is only looked for where something in a piece of the row lies outside.

    room: (4, w), to work in.
    """
    red, green, blue, outside = room[0], room[1], room[2], room[3]
    for j in range(l.shape[0]):
        l[j] = clamp01(l[j])
        lit = light(l[j], a[j], b[j], of)
        red[j], green[j], blue[j] = lit
        outside[j] = ONE if _beyond(lit[0], lit[1], lit[2]) else NOTHING
    for start in range(0, l.shape[0], PIECE):
        end = min(start + PIECE, l.shape[0])
        is_outside = False
        for j in range(start, end):
            is_outside |= outside[j] > NOTHING
        if is_outside:
            _keep_inside(
                l[start:end], a[start:end], b[start:end],
                red[start:end], green[start:end], blue[start:end], outside[start:end], of,
            )  # fmt: skip
    for j in range(l.shape[0]):
        l[j] = clamp01(enc_positive(clamp01(red[j])))
        a[j] = clamp01(enc_positive(clamp01(green[j])))
        b[j] = clamp01(enc_positive(clamp01(blue[j])))


@formula
def rows(width: int) -> tuple[Row, Row, Row, Row, Plane]:
    """Room for a row of three values, a share, and what `fit` needs beside."""
    room = np.empty((8, width), np.float32)
    return room[0], room[1], room[2], room[3], room[4:]


@formula
def lay_row(px: Planes, i: int, r: Row, g: Row, b: Row, share: Row) -> None:
    """Mix a row of colours in 0..1 into row i of `px`; what lies beyond 0..1 keeps its distance to the range."""
    for j in range(r.shape[0]):
        red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
        px[0, i, j] = red + share[j] * (r[j] - clamp01(red))
        px[1, i, j] = green + share[j] * (g[j] - clamp01(green))
        px[2, i, j] = blue + share[j] * (b[j] - clamp01(blue))


T0, T1, T2 = float32(0.99997726), float32(-0.33262347), float32(0.19354346)
T3, T4, T5 = float32(-0.11643287), float32(0.05265332), float32(-0.01172120)
QUARTER, HALF_TURN, DEGREES = float32(90), float32(180), float32(57.29577951308232)
SMALLEST = float32(1e-12)


@formula
def hue_of(a: float, b: float) -> float:
    """The hue angle of a and b in degrees, −180..180; within 0.001 (the arctangent by a polynomial)."""
    x, y = abs(a), abs(b)
    large, small = max(x, y), min(x, y)
    z = small / (large if large > SMALLEST else SMALLEST)
    s = z * z
    angle = DEGREES * z * (T0 + s * (T1 + s * (T2 + s * (T3 + s * (T4 + s * T5)))))
    angle = QUARTER - angle if y > x else angle
    angle = HALF_TURN - angle if a < NOTHING else angle
    return -angle if b < NOTHING else angle
