"""The working spaces: three sets of primaries under one white, with one transfer function (computation.md).

Sources: IEC 61966-2-1 (sRGB); CSS Color 4, section 10 (display-p3, and the matrices of Oklab); ITU-R BT.2020 (wide).
Nothing else in this program knows a primary: kernels are handed a space's `Primaries`.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.transfer import NOTHING, encoded, lin, linear, tone_of

Matrix = NDArray[np.float64]
"""(3, 3), float64, for columns of three values."""
Chromaticity = tuple[float, float]
"""CIE 1931 x, y."""
WHITE: Chromaticity = (0.3127, 0.3290)
XYZ_TO_LMS = np.array(
    [
        [0.8190224379967030, 0.3619062600528904, -0.1288737815209879],
        [0.0329836539323885, 0.9292868615863434, 0.0361446663506424],
        [0.0481771893596242, 0.2642395317527308, 0.6335478284694309],
    ]
)
"""XYZ under D65 to the cones of Oklab (CSS Color 4, section 18)."""
INSIDE = 1e-4
"""How far, encoded, a colour may lie outside a space that holds it: half a code of 12 bits."""


class Primaries(NamedTuple):
    """What kernels need to know of a working space, float32: the weights of luminance, linear light to the cones of
    Oklab (long, medium, short, of red, green, blue), and back."""

    red: float32
    green: float32
    blue: float32
    long_r: float32
    long_g: float32
    long_b: float32
    medium_r: float32
    medium_g: float32
    medium_b: float32
    short_r: float32
    short_g: float32
    short_b: float32
    red_l: float32
    red_m: float32
    red_s: float32
    green_l: float32
    green_m: float32
    green_s: float32
    blue_l: float32
    blue_m: float32
    blue_s: float32


def xyz_of(x: float, y: float) -> Matrix:
    """XYZ of a chromaticity, Y = 1."""
    return np.array([x / y, 1.0, (1 - x - y) / y])


def _adding_to_one(row: Matrix) -> tuple[float32, float32, float32]:
    """Three weights in float32 whose sum is 1 to the last bit, added from the left: white stays white."""
    first, second = float32(row[0]), float32(row[1])
    return first, second, float32(1) - (first + second)


@dataclass(frozen=True)
class Space:
    """A working space. name: as the stack file writes it; title, help: for the page; css: its name in a style sheet and
    for a canvas, empty where a browser has none; primaries: x, y of red, green and blue."""

    name: str
    title: str
    help: str
    css: str
    primaries: tuple[Chromaticity, Chromaticity, Chromaticity]

    @cached_property
    def to_xyz(self) -> Matrix:
        """Linear light to XYZ, the white's Y being 1."""
        columns = np.array([xyz_of(*primary) for primary in self.primaries]).T
        return np.asarray(columns * np.linalg.solve(columns, xyz_of(*WHITE)))

    @cached_property
    def from_xyz(self) -> Matrix:
        return np.asarray(np.linalg.inv(self.to_xyz))

    @cached_property
    def of(self) -> Primaries:
        """The space for kernels."""
        to_lms = XYZ_TO_LMS @ self.to_xyz
        rows = np.concatenate([self.to_xyz[1:2], to_lms, np.linalg.inv(to_lms)])
        return Primaries(*(value for row in rows for value in _adding_to_one(row)))

    def onto(self, other: Space) -> Matrix:
        """Linear light of this space to linear light of another."""
        return np.asarray(other.from_xyz @ self.to_xyz)


SRGB, DISPLAY_P3, WIDE = SPACES_IN_ORDER = (
    Space(
        "srgb", "sRGB", "What screens and the web have meant for decades.", "srgb",
        ((0.64, 0.33), (0.30, 0.60), (0.15, 0.06)),
    ),
    Space(
        "display-p3", "Display P3", "What good screens show: stronger reds and greens.", "display-p3",
        ((0.680, 0.320), (0.265, 0.690), (0.150, 0.060)),
    ),
    Space(
        "wide", "Wide", "Nearly every colour there is, as cameras and some printers have them.", "",
        ((0.708, 0.292), (0.170, 0.797), (0.131, 0.046)),
    ),
)  # fmt: skip
SPACES = {space.name: space for space in SPACES_IN_ORDER}
"""By name, the smallest first."""


def carried(values: Matrix, source: Space, target: Space) -> Matrix:
    """Encoded values (3, ...) of one space as those of another, float64, unclamped: outside 0..1 where the target does
    not hold the colour. Greys stay as they are."""
    if source is target:
        return np.asarray(values, np.float64)
    return encoded(np.tensordot(source.onto(target), linear(values), 1))


def holds(values: Matrix, source: Space, target: Space) -> bool:
    """Whether a space holds colours (3, ...) of another."""
    there = carried(values, source, target)
    return bool((there > -INSIDE).all() and (there < 1 + INSIDE).all())


@formula
def luminance(r: float, g: float, b: float, of: Primaries) -> float:
    """Linear luminance Y of encoded r, g, b; negative counts as 0."""
    y = of.red * lin(r) + of.green * lin(g) + of.blue * lin(b)
    return y if y > NOTHING else NOTHING


@kernel
def _tone(px: Planes, of: Primaries, out: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            out[i, j] = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j], of))


def tone(px: Planes, space: Space) -> Plane:
    """Tone t of every pixel; (3, h, w) encoded to (h, w)."""
    out = np.empty(px.shape[1:], np.float32)
    _tone(np.ascontiguousarray(px), space.of, out)
    return out


@kernel
def _luminance(px: Planes, of: Primaries, out: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            out[i, j] = luminance(px[0, i, j], px[1, i, j], px[2, i, j], of)


def luminances(px: Planes, space: Space) -> Plane:
    """Linear luminance Y of every pixel; (3, h, w) encoded to (h, w)."""
    out = np.empty(px.shape[1:], np.float32)
    _luminance(np.ascontiguousarray(px), space.of, out)
    return out
