"""White balance: the picture as if it had been lit by another light.

Sources: CIE 15 (chromaticity of daylight by its temperature, 4000 to 25000 K); Bradford adaptation (K. M. Lam 1985, as
in ICC.1:2010 annex E).
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Matrix, Space, xyz_of
from glyptic.pixels.transfer import enc, lin, linear

NEUTRAL = 6504.0
"""The temperature of the white of every working space on CIE's locus."""
GREENEST = 0.02
"""How far from the locus, in CIE 1960 u, v, a full tint goes."""
COLDEST, BLUEST = 4000.0, 25000.0
LIGHTS = 2000
DARKEST = 0.01
"""A channel darker than this tells nothing of the light."""
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def daylight(kelvin: float) -> tuple[float, float]:
    """Chromaticity x, y of daylight of 4000..25000 K (CIE 15)."""
    t = 1000 / kelvin
    if kelvin <= 7000:
        x = 0.244063 + 0.09911 * t + 2.9678 * t**2 - 4.6070 * t**3
    else:
        x = 0.237040 + 0.24748 * t + 1.9018 * t**2 - 2.0064 * t**3
    return x, -3.000 * x * x + 2.870 * x - 0.275


def _uv(x: float, y: float) -> Matrix:
    """CIE 1960 u, v."""
    return np.array([4 * x, 6 * y]) / (-2 * x + 12 * y + 3)


def lit_by(kelvin: float, tint: float) -> tuple[float, float]:
    """Chromaticity of daylight moved off the locus: greener for a positive tint, at right angles in CIE 1960 u, v."""
    u, v = _uv(*daylight(kelvin))
    along = _uv(*daylight(kelvin * 1.001)) - _uv(*daylight(kelvin * 0.999))
    along /= np.hypot(*along)
    normal = np.array([along[1], -along[0]])
    normal *= np.sign(normal[1])
    u, v = np.array([u, v]) + GREENEST * tint * normal
    scale = 2 * u - 8 * v + 4
    return float(3 * u / scale), float(2 * v / scale)


def adaptation(source: tuple[float, float], target: tuple[float, float]) -> Matrix:
    """XYZ under one white to XYZ under another (Bradford)."""
    cones = (BRADFORD @ xyz_of(*target)) / (BRADFORD @ xyz_of(*source))
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag(cones) @ BRADFORD)


@lru_cache(64)
def balance(kelvin: float, tint: float, space: Space) -> Matrix:
    """Linear RGB of a picture to the same had it been lit by `NEUTRAL` instead of the light that is stated."""
    return np.asarray(space.from_xyz @ adaptation(lit_by(kelvin, tint), daylight(NEUTRAL)) @ space.to_xyz)


def nearest_light(xyz: Sequence[float] | Matrix) -> tuple[float, float]:
    """The temperature and tint of a light of a colour, as near as they can be told within their ranges."""
    light = np.asarray(xyz, np.float64)
    seen = _uv(*(light / light.sum())[:2])
    kelvins = np.geomspace(COLDEST, BLUEST, LIGHTS)
    away = np.array([np.hypot(*(seen - _uv(*lit_by(float(k), 0.0)))) for k in kelvins])
    kelvin = float(kelvins[away.argmin()])
    green_side = _uv(*lit_by(kelvin, 1.0)) - _uv(*lit_by(kelvin, 0.0))
    tint = float((seen - _uv(*lit_by(kelvin, 0.0))) @ green_side / GREENEST**2)
    return round(kelvin), round(min(max(tint, -1.0), 1.0), 3)


def light_of(red: float, green: float, blue: float, space: Space) -> tuple[float, float]:
    """The temperature and tint of the light under which a colour (encoded) would be a grey."""
    return nearest_light(space.to_xyz @ linear(np.clip([red, green, blue], DARKEST, 1)))


@kernel
def _balance(px: Planes, alpha: Plane, m: NDArray[np.float32]) -> None:
    m00, m01, m02 = m[0, 0], m[0, 1], m[0, 2]
    m10, m11, m12 = m[1, 0], m[1, 1], m[1, 2]
    m20, m21, m22 = m[2, 0], m[2, 1], m[2, 2]
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            r, g, b = lin(red), lin(green), lin(blue)
            share = alpha[i, j]
            px[0, i, j] = red + share * (enc(m00 * r + m01 * g + m02 * b) - red)
            px[1, i, j] = green + share * (enc(m10 * r + m11 * g + m12 * b) - green)
            px[2, i, j] = blue + share * (enc(m20 * r + m21 * g + m22 * b) - blue)


class WhiteBalance(PointWise):
    """enc(M · lin(Cb)): M adapts (Bradford) from daylight of the temperature, moved off the locus by 0.02 · tint
    towards green in CIE 1960 u, v, to daylight of 6504 K; nothing is clamped."""

    name = "white-balance"
    title = "White balance"
    purpose = "Colour"
    summary = "Makes the picture warmer or cooler, greener or more magenta, by naming the light it was taken in."
    sample = {"temperature": 9000}
    schema = Schema(
        {
            "temperature": Real(label="Light", help="The light it was taken in; name a bluer one for a warmer picture.",
                                default=NEUTRAL, unit="K", low=COLDEST, high=BLUEST, step=10, soft_low=4000,
                                soft_high=12000, ends=("blue", "yellow")),
            "tint": Real(label="Tint", help="How green that light was: above 0 the picture turns to magenta.",
                         default=0.0, unit="%", low=-1, high=1, step=0.01, ends=("green", "magenta")),
        }
    )  # fmt: skip

    picks = (Aid("grey", "Pick a grey", "Press on something that should be grey; the light is worked out from it."),)

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        temperature, tint = light_of(*seen[:3], seen.space)
        return {"temperature": temperature, "tint": tint}

    def opposite(self, settings: Values) -> Values:
        """As far from neutral the other way, in mired, by which light is evenly spaced to the eye."""
        mired = 2e6 / NEUTRAL - 1e6 / settings["temperature"]
        turned = min(max(1e6 / mired, COLDEST), BLUEST) if mired > 0 else BLUEST
        return Values({**super().opposite(settings), "temperature": turned})

    def ready(self, settings: Values, space: Space) -> NDArray[np.float32]:
        return balance(settings["temperature"], settings["tint"], space).astype(float32)

    def lay(self, ready: NDArray[np.float32], px: Planes, alpha: Plane, patch: Patch) -> None:
        _balance(px, alpha, ready)


WHITE_BALANCE = WhiteBalance()
