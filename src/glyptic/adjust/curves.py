"""Curves: monotone piecewise cubics through points, per channel, for all, and for tone.

Source: F. N. Fritsch and J. Butland, A method for constructing local monotone piecewise cubic interpolants,
SIAM J. Sci. Stat. Comput. 5 (1984), with three-point shape-preserving slopes at the ends; the same curve as
SciPy's PchipInterpolator.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.kind import Aid, PointWise
from glyptic.blend import flat, mix
from glyptic.params import CurvePoints, Group, Schema, Values
from glyptic.params.geometry import is_identity
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Space, tone
from glyptic.pixels.tables import Function, Table, chained, make_table, through
from glyptic.pixels.tones import move_tone

CHANNELS = ("red", "green", "blue")
Pairs = tuple[tuple[float, float], ...]


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


def curve(points: Pairs) -> Function | None:
    """The curve through the points, constant beyond its ends; None where it changes nothing."""
    if is_identity(points):
        return None
    x, y = np.array(points, np.float64).T
    m = slopes(x, y)
    h, d = np.diff(x), np.diff(y) / np.diff(x)
    b, c = (3 * d - 2 * m[:-1] - m[1:]) / h, (m[:-1] + m[1:] - 2 * d) / (h * h)

    def through(at: NDArray[np.float64]) -> NDArray[np.float64]:
        inside = np.clip(at, x[0], x[-1])
        i = np.clip(np.searchsorted(x, inside, "right") - 1, 0, len(h) - 1)
        u = inside - x[i]
        return np.asarray(np.where(at >= x[-1], y[-1], y[i] + ((c[i] * u + b[i]) * u + m[i]) * u))

    return through


def sampled(points: Pairs, count: int) -> NDArray[np.float64]:
    """The curve's values at `count` places from 0 to 1, for drawing it."""
    at = np.linspace(0, 1, count)
    through = curve(points)
    return at if through is None else through(at)


CURVES_OF = Schema(
    {
        "rgb": CurvePoints(label="All", help="The curve all three channels go through."),
        "red": CurvePoints(label="Red", help="Up adds red, down adds cyan.", ends=("cyan", "red")),
        "green": CurvePoints(label="Green", help="Up adds green, down adds magenta.", ends=("magenta", "green")),
        "blue": CurvePoints(label="Blue", help="Up adds blue, down adds yellow.", ends=("yellow", "blue")),
        "tone": CurvePoints(label="Tone", help="Moves tone and keeps the colour."),
    }
)


@dataclass(frozen=True)
class Drawn:
    """Curves ready to be laid: a table for each channel, and one for tone, which is that of a space."""

    channels: tuple[Table | None, ...]
    tone: Table
    space: Space


@dataclass(frozen=True)
class Shape:
    """A set of curves to begin from: plain points by channel."""

    name: str
    title: str
    points: dict[str, list[list[float]]]


SHAPES = (
    Shape("lift", "Lift", {"rgb": [[0, 0], [0.45, 0.58], [1, 1]]}),
    Shape("lower", "Lower", {"rgb": [[0, 0], [0.55, 0.42], [1, 1]]}),
    Shape("soft", "Soft contrast", {"rgb": [[0, 0], [0.25, 0.21], [0.75, 0.8], [1, 1]]}),
    Shape("strong", "Strong contrast", {"rgb": [[0, 0], [0.25, 0.15], [0.5, 0.51], [0.75, 0.87], [1, 1]]}),
    Shape("matte", "Matte", {"rgb": [[0, 0.1], [0.25, 0.25], [0.75, 0.77], [1, 0.94]]}),
    Shape("negative", "Negative", {"rgb": [[0, 1], [1, 0]]}),
    Shape("crossed", "Cross-coloured", {"red": [[0, 0], [0.25, 0.17], [0.75, 0.85], [1, 1]],
                                        "green": [[0, 0], [0.25, 0.22], [0.75, 0.8], [1, 1]],
                                        "blue": [[0, 0.1], [0.5, 0.5], [1, 0.88]]}),
)  # fmt: skip
"""Curves to begin from, adjustable afterwards."""
NEAR = 0.03
"""How near to a point a tone that is picked takes that point rather than a new one."""
FULL = 32


def _value(points: Pairs, x: float) -> float:
    move = curve(points)
    return x if move is None else float(move(np.array(x)))


class Curves(PointWise):
    """out = rgb(own(in)) for each channel, then tone: linear RGB scaled from the old tone to the new."""

    name = "curves"
    title = "Curves"
    purpose = "Light"
    summary = "Moves tones by a curve: for all channels, for one, or for tone with the colour kept."
    sample = {"points": {"rgb": [[0, 0], [0.25, 0.18], [0.75, 0.84], [1, 1]]}}
    schema = Schema({"points": Group(label="Curve", schema=CURVES_OF, default=CURVES_OF.defaults)})

    shapes = SHAPES
    picks = tuple(
        Aid(name, "Hand on picture", f"Press on a tone and drag up or down: the curve ({param.label.lower()}) follows.",
            drags=True)
        for name, param in CURVES_OF.params.items()
    )  # fmt: skip

    def meets(self, settings: Values, seen: Seen) -> dict[str, float]:
        """Where on each curve a spot lies: the value that enters it, 0..1."""
        points = settings["points"]
        own = [_value(points[name], value) for name, value in zip(CHANNELS, seen[:3], strict=True)]
        moved = np.array([_value(points["rgb"], value) for value in own], np.float32)
        tones = float(tone(moved[:, None, None], seen.space)[0, 0])
        found = {**dict(zip(CHANNELS, seen[:3], strict=True)), "rgb": sum(own) / 3, "tone": tones}
        return {name: min(max(value, 0.0), 1.0) for name, value in found.items()}

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        """A point of the curve is placed where the spot lies, or the one near to it taken, and moved up by `by`."""
        points = list(settings["points"][name])
        x = round(self.meets(settings, seen)[name], 4)
        nearest = min(points, key=lambda point: abs(point[0] - x))
        if abs(nearest[0] - x) < NEAR or len(points) == FULL:
            points.remove(nearest)
            x, y = nearest
        else:
            y = _value(settings["points"][name], x)
        points.append((x, round(min(max(y + by, 0.0), 1.0), 4)))
        every = {channel: [list(p) for p in pairs] for channel, pairs in settings["points"].items()}
        return {"points": {**every, name: [list(point) for point in sorted(points)]}}

    def works_on_channels(self, settings: Values) -> bool:
        return any(not is_identity(points) for name, points in settings["points"].items() if name != "tone")

    def is_neutral(self, settings: Values) -> bool:
        return all(is_identity(points) for points in settings["points"].values())

    def channels(self, settings: Values) -> tuple[Function | None, ...] | None:
        points = settings["points"]
        if not is_identity(points["tone"]):
            return None
        return self._channels(settings)

    def _channels(self, settings: Values) -> tuple[Function | None, ...]:
        points = settings["points"]
        every = curve(points["rgb"])
        return tuple(chained(curve(points[name]), every) for name in CHANNELS)

    def ready(self, settings: Values, space: Space) -> Drawn:
        move = curve(settings["points"]["tone"])
        assert move is not None  # noqa: S101  (with no tone curve the engine uses the channels' tables)
        tables = tuple(None if f is None else make_table(f) for f in self._channels(settings))
        return Drawn(tables, make_table(move), space)

    def lay(self, ready: Drawn, px: Planes, alpha: Plane, patch: Patch) -> None:
        ones = flat(1.0, alpha.shape)
        if any(ready.channels):
            moved = px.copy()
            through(moved, ones, ready.channels)
        else:
            moved = px
        old = tone(moved, ready.space)
        new = old.copy()
        through(new[None], ones, (ready.tone,))
        move_tone(moved, alpha if moved is px else ones, old, new)
        if moved is not px:
            mix(px, moved, alpha, "normal")


CURVES = Curves()
