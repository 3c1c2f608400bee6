"""Curves: monotone piecewise cubics through points, per channel, for all, and for tone.

Source: F. N. Fritsch and J. Butland, A method for constructing local monotone piecewise cubic interpolants,
SIAM J. Sci. Stat. Comput. 5 (1984), with three-point shape-preserving slopes at the ends; the same curve as
SciPy's PchipInterpolator.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import Coloured, PointWise, empty_like
from glyptic.params import CurvePoints, Group, Schema, Values
from glyptic.params.geometry import is_identity
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.shapes import Frame
from glyptic.pixels.srgb import BLACK, enc, lin, luminance, luminance_of, tone_of

CHANNELS = ("red", "green", "blue")
Pairs = tuple[tuple[float, float], ...]
Table = NDArray[np.float64]
"""(6, n): x, y, and the coefficients a, b, c of y + ((c u + b) u + a) u from each point, u = x − x_i."""


def _end_slope(h0: float, h1: float, d0: float, d1: float) -> float:
    """Three-point, shape-preserving slope at an end."""
    slope = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    if np.sign(slope) != np.sign(d0):
        return 0.0
    if np.sign(d0) != np.sign(d1) and abs(slope) > abs(3 * d0):
        return 3 * d0
    return float(slope)


def slopes(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """The curve's slope at each point."""
    h, d = np.diff(x), np.diff(y) / np.diff(x)
    if len(x) == 2:
        return np.array([d[0], d[0]])
    m = np.zeros(len(x))
    for k in range(1, len(x) - 1):
        if d[k - 1] * d[k] > 0:
            w1, w2 = 2 * h[k] + h[k - 1], h[k] + 2 * h[k - 1]
            m[k] = (w1 + w2) / (w1 / d[k - 1] + w2 / d[k])
    m[0] = _end_slope(h[0], h[1], d[0], d[1])
    m[-1] = _end_slope(h[-1], h[-2], d[-1], d[-2])
    return m


def table(points: Pairs) -> Table:
    """The curve through the points, ready for `evaluate`."""
    x, y = np.array(points, np.float64).T
    m = slopes(x, y)
    h, d = np.diff(x), np.diff(y) / np.diff(x)
    b, c = np.zeros(len(x)), np.zeros(len(x))
    b[:-1] = (3 * d - 2 * m[:-1] - m[1:]) / h
    c[:-1] = (m[:-1] + m[1:] - 2 * d) / (h * h)
    return np.stack([x, y, m, b, c, np.full(len(x), float(is_identity(points)))])


@formula
def evaluate(curve: Table, x: float) -> float:
    """The curve's value, constant beyond its ends."""
    n = curve.shape[1]
    if x <= curve[0, 0]:
        return float(curve[1, 0])
    if x >= curve[0, n - 1]:
        return float(curve[1, n - 1])
    low, high = 0, n - 1
    while high - low > 1:
        middle = (low + high) // 2
        if curve[0, middle] <= x:
            low = middle
        else:
            high = middle
    u = x - curve[0, low]
    return float(curve[1, low] + ((curve[4, low] * u + curve[3, low]) * u + curve[2, low]) * u)


@kernel
def _through(plane: Plane, own: Table, every: Table, out: Plane) -> None:
    own_on, every_on = own[5, 0] == 0.0, every[5, 0] == 0.0
    for i in range(plane.shape[0]):
        for j in range(plane.shape[1]):
            x = float(plane[i, j])
            if own_on:
                x = evaluate(own, x)
            if every_on:
                x = evaluate(every, x)
            out[i, j] = x


@kernel
def _move_tone(px: Planes, curve: Table) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b = px[0, i, j], px[1, i, j], px[2, i, j]
            y = luminance(r, g, b)
            new = luminance_of(evaluate(curve, tone_of(y)))
            if y > BLACK:
                px[0, i, j] = enc(lin(r) * (new / y))
                px[1, i, j] = enc(lin(g) * (new / y))
                px[2, i, j] = enc(lin(b) * (new / y))
            else:
                grey = enc(new)
                px[0, i, j] = grey
                px[1, i, j] = grey
                px[2, i, j] = grey


CURVES_OF = Schema(
    {
        "rgb": CurvePoints(label="All", help="The curve all three channels go through."),
        "red": CurvePoints(label="Red", help="Up adds red, down adds cyan."),
        "green": CurvePoints(label="Green", help="Up adds green, down adds magenta."),
        "blue": CurvePoints(label="Blue", help="Up adds blue, down adds yellow."),
        "tone": CurvePoints(label="Tone", help="Moves tone and keeps the colour."),
    }
)


@kernel
def _sampled(curve: Table, out: NDArray[np.float64]) -> None:
    for i in range(out.shape[0]):
        out[i] = evaluate(curve, i / (out.shape[0] - 1))


def sampled(points: Pairs, count: int) -> NDArray[np.float64]:
    """The curve's values at `count` places from 0 to 1, for drawing it."""
    out = np.empty(count, np.float64)
    _sampled(table(points), out)
    return out


class Curves(PointWise):
    """out = rgb(own(in)) for each channel, then tone: linear RGB scaled from the old tone to the new."""

    name = "curves"
    title = "Curves"
    purpose = "Light"
    summary = "Moves tones by a curve: for all channels, for one, or for tone with the colour kept."
    schema = Schema({"points": Group(label="Curve", schema=CURVES_OF, default=CURVES_OF.defaults)})

    def is_neutral(self, settings: Values) -> bool:
        return all(is_identity(points) for points in settings["points"].values())

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        points = settings["points"]
        every = table(points["rgb"])
        out = empty_like(px)
        for c, name in enumerate(CHANNELS):
            own = table(points[name])
            if own[5, 0] and every[5, 0]:
                out[c] = px[c]
            else:
                _through(px[c], own, every, out[c])
        if not is_identity(points["tone"]):
            _move_tone(out, table(points["tone"]))
        return Coloured(out)


CURVES = Curves()
