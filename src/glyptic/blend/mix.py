"""Mixing: C = Cb + a (B(Cb, Cs) − Cb), with a = layer alpha · opacity · mask (computation.md, Layers).

Normal mode works on unclamped values; every other mode sees its arguments clamped to 0..1. Where a is 0, and where
normal mode meets a colour equal to what lies below, the pixel keeps every bit.

Each mode has its own loop, made of one template: a mode that is chosen pixel by pixel would not become vector code.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.blend import non_separable as n
from glyptic.blend import separable as s
from glyptic.pixels.compiled import Plane, Planes, kernel, template
from glyptic.pixels.vector import HALF, clamp01

SEPARABLE = [
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
]
"""The modes that mix channel by channel; their places are their numbers in the kernels."""
NON_SEPARABLE = ["hue", "saturation", "color", "luminosity"]
FLATS = 32
"""Planes of one value that are kept: 8 MB of those of a tile."""


@template
def _channels(blend: Any, px: Planes, cs: Planes, alpha: Plane) -> None:
    for c in range(px.shape[0]):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                cb = px[c, i, j]
                px[c, i, j] = cb + alpha[i, j] * (blend(clamp01(cb), clamp01(cs[c, i, j])) - cb)


@template
def _grey(blend: Any, keeps: bool, px: Planes, grey: Plane, alpha: Plane) -> None:
    """As `_channels` for a grey source, with the clamped backdrop also outside B (computation.md, Grey layer)."""
    for c in range(px.shape[0]):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                cb, g = px[c, i, j], grey[i, j]
                inside = clamp01(cb)
                new = cb + alpha[i, j] * (blend(inside, g) - inside)
                px[c, i, j] = cb if keeps and g == HALF else new


@template
def _pixels(blend: Any, px: Planes, cs: Planes, alpha: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            a = alpha[i, j]
            r, g, b = px[0, i, j], px[1, i, j], px[2, i, j]
            mixed = blend(
                clamp01(r), clamp01(g), clamp01(b), clamp01(cs[0, i, j]), clamp01(cs[1, i, j]), clamp01(cs[2, i, j])
            )
            px[0, i, j] = r + a * (mixed[0] - r)
            px[1, i, j] = g + a * (mixed[1] - g)
            px[2, i, j] = b + a * (mixed[2] - b)


@kernel
def _mix_normal(px: Planes, cs: Planes, alpha: Plane) -> None:
    for c in range(px.shape[0]):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                px[c, i, j] += alpha[i, j] * (cs[c, i, j] - px[c, i, j])


@kernel
def _mix_separable(mode: int, px: Planes, cs: Planes, alpha: Plane) -> None:
    if mode == 0:
        _channels(s.multiply, px, cs, alpha)
    elif mode == 1:
        _channels(s.screen, px, cs, alpha)
    elif mode == 2:
        _channels(s.overlay, px, cs, alpha)
    elif mode == 3:
        _channels(s.darken, px, cs, alpha)
    elif mode == 4:
        _channels(s.lighten, px, cs, alpha)
    elif mode == 5:
        _channels(s.color_dodge, px, cs, alpha)
    elif mode == 6:
        _channels(s.color_burn, px, cs, alpha)
    elif mode == 7:
        _channels(s.hard_light, px, cs, alpha)
    elif mode == 8:
        _channels(s.soft_light, px, cs, alpha)
    elif mode == 9:
        _channels(s.difference, px, cs, alpha)
    else:
        _channels(s.exclusion, px, cs, alpha)


@kernel
def _mix_grey(mode: int, px: Planes, grey: Plane, alpha: Plane) -> None:
    """The three modes in which 50 % grey changes nothing have loops of their own."""
    if mode == SOFT_LIGHT:
        _grey(s.soft_light, True, px, grey, alpha)
    elif mode == OVERLAY:
        _grey(s.overlay, True, px, grey, alpha)
    else:
        _grey(s.hard_light, True, px, grey, alpha)


@kernel
def _mix_non_separable(mode: int, px: Planes, cs: Planes, alpha: Plane) -> None:
    if mode == 0:
        _pixels(n.hue, px, cs, alpha)
    elif mode == 1:
        _pixels(n.saturation, px, cs, alpha)
    elif mode == 2:
        _pixels(n.color, px, cs, alpha)
    else:
        _pixels(n.luminosity, px, cs, alpha)


SOFT_LIGHT, OVERLAY = SEPARABLE.index("soft-light"), SEPARABLE.index("overlay")
NEUTRAL_MODES = ("soft-light", "overlay", "hard-light")
"""The modes in which 50 % grey changes nothing."""


def mix(px: Planes, cs: Planes, alpha: Plane, mode: str) -> None:
    """Mix a layer's colour into `px`, in place.

    px, cs: (3, h, w) encoded values; alpha: (h, w) in 0..1; mode: one of the 16 blend modes.
    """
    if mode == "normal":
        _mix_normal(px, cs, alpha)
    elif mode in SEPARABLE:
        _mix_separable(SEPARABLE.index(mode), px, cs, alpha)
    else:
        _mix_non_separable(NON_SEPARABLE.index(mode), px, cs, alpha)


def mix_grey(px: Planes, grey: Plane, alpha: Plane, mode: str) -> None:
    """Mix a grey into `px` in place, in one of NEUTRAL_MODES; where it is 0.5 every bit is kept.

    px: (3, h, w) encoded values; grey, alpha: (h, w) in 0..1.
    """
    _mix_grey(SEPARABLE.index(mode), px, grey, alpha)


def blended(cb: NDArray[np.float64], cs: NDArray[np.float64], mode: str) -> NDArray[np.float64]:
    """B of one channel's values, any shape, for normal and the separable modes; float64, for building tables."""
    if mode == "normal":
        return cs
    px = np.ascontiguousarray(np.clip(cb, 0, 1), float32).reshape(1, 1, -1)
    source = np.ascontiguousarray(cs, float32).reshape(1, 1, -1)
    _mix_separable(SEPARABLE.index(mode), px, source, np.ones(px.shape[1:], float32))
    return px.reshape(np.shape(cb)).astype(np.float64)


@lru_cache(FLATS)
def flat(value: float, shape: tuple[int, int]) -> Plane:
    """A plane (h, w) of one value; not to be written. The last few are kept."""
    return np.full(shape, value, float32)


def fade(alpha: Plane | None, opacity: float, mask: Plane | float32 | None, shape: tuple[int, int]) -> Plane:
    """a = layer alpha · opacity · mask, not to be written; None counts as 1."""
    amount = float32(opacity)
    if isinstance(mask, np.ndarray):
        faded = mask if opacity == 1 else mask * amount
        return faded if alpha is None else faded * alpha
    amount = amount if mask is None else amount * mask
    return flat(float(amount), shape) if alpha is None else alpha * amount
