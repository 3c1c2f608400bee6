"""The practice camera. There is none: its raw files are made of rendered scenes, to try things without a real one.

A scene's light is seen through made-up filters, lit by a light of its own, counted as electrons with their noise, and
written as a mosaic in a DNG (version 1.4): linear, 14 bits, with the matrix and the white balance a camera would give.
"""

from __future__ import annotations

from fractions import Fraction
from io import BytesIO
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray

from glyptic.adjust.white_balance import adaptation, lit_by
from glyptic.pixels.spaces import SRGB, WHITE, xyz_of
from glyptic.pixels.transfer import linear

FILTERS = np.array([[0.82, -0.21, -0.05], [-0.42, 1.24, 0.19], [-0.07, 0.16, 0.63]])
"""XYZ to what the sensor sees of it through red, green and blue filters."""
BLACK, FULL = 512, 16383
WELL = 24_000
"""Electrons of a full pixel."""
READ_NOISE = 4.0
HEADROOM = 0.55
"""Where a scene's white lies in what the sensor holds: lights beyond it can be brought back."""
LIGHT = (4300.0, 0.08)
"""The light of the studio: temperature in kelvin, and tint."""
MAKE, MODEL = "Practice", "Practice Camera One"
BYTE, ASCII, SHORT, LONG, RATIONAL, SRATIONAL = 1, 2, 3, 4, 5, 10
D65 = 21
MOSAIC = ((0, 1), (1, 2))
"""Which filter stands before each pixel of a block of four."""


def _ratios(values: NDArray[np.float64]) -> tuple[int, ...]:
    pairs = (Fraction(float(v)).limit_denominator(10_000) for v in np.asarray(values).ravel())
    return tuple(number for pair in pairs for number in (pair.numerator, pair.denominator))


def seen(codes: NDArray[np.uint8], seed: int) -> NDArray[np.uint16]:
    """The mosaic (h, w) that the sensor reads of a scene (h, w, 3) of encoded sRGB."""
    height, width = (side // 2 * 2 for side in codes.shape[:2])
    light = linear(codes[:height, :width] / 255) @ SRGB.to_xyz.T
    lit = light @ adaptation(WHITE, lit_by(*LIGHT)).T
    through = np.clip(lit @ FILTERS.T, 0, None) * HEADROOM / (FILTERS @ xyz_of(*lit_by(*LIGHT))).max()
    mosaic = np.empty((height, width))
    for y, row in enumerate(MOSAIC):
        for x, colour in enumerate(row):
            mosaic[y::2, x::2] = through[y::2, x::2, colour]
    chance = np.random.default_rng(seed)
    counted = chance.poisson(mosaic * WELL) + chance.normal(0, READ_NOISE, mosaic.shape)
    return np.asarray(np.clip(np.round(BLACK + counted / WELL * (FULL - BLACK)), 0, FULL), np.uint16)


def raw_of(codes: NDArray[np.uint8], seed: int = 1, taken: str = "2026:10:02 10:30:00") -> bytes:
    """A raw file of a scene (h, w, 3) of encoded sRGB, 8 bits."""
    neutral = FILTERS @ xyz_of(*lit_by(*LIGHT))
    tags: list[tuple[int, int, int, Any, bool]] = [
        (33421, SHORT, 2, (2, 2), True), (33422, BYTE, 4, bytes(c for row in MOSAIC for c in row), True),
        (50706, BYTE, 4, bytes((1, 4, 0, 0)), True), (50707, BYTE, 4, bytes((1, 1, 0, 0)), True),
        (50708, ASCII, 0, MODEL, True), (271, ASCII, 0, MAKE, True), (272, ASCII, 0, MODEL, True),
        (274, SHORT, 1, 1, True), (306, ASCII, 0, taken, True), (33432, ASCII, 0, "The museum's studio", True),
        (50714, SHORT, 1, BLACK, True), (50717, SHORT, 1, FULL, True),
        (50721, SRATIONAL, 9, _ratios(FILTERS), True), (50778, SHORT, 1, D65, True),
        (50728, RATIONAL, 3, _ratios(neutral / neutral.max()), True),
    ]  # fmt: skip
    stream = BytesIO()
    tifffile.imwrite(stream, seen(codes, seed), photometric=32803, metadata=None, software="Practice", extratags=tags)
    return stream.getvalue()
