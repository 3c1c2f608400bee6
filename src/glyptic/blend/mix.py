"""Mixing: C = Cb + a (B(Cb, Cs) − Cb), with a = layer alpha · opacity · mask (computation.md, Layers).

Normal mode works on unclamped values; every other mode sees its arguments clamped to 0..1. Where a is 0, and where
normal mode meets a colour equal to what lies below, the pixel keeps every bit.
"""

from __future__ import annotations

import numpy as np

from glyptic.blend import non_separable as n
from glyptic.blend import separable as s
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.shapes import clamp01

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
"""The codes of `separable`, by place."""
NON_SEPARABLE = ("hue", "saturation", "color", "luminosity")


@formula
def separable(code: int, cb: float, cs: float) -> float:  # noqa: PLR0911
    """B of one channel for the mode SEPARABLE[code]."""
    if code == 0:
        return s.multiply(cb, cs)
    if code == 1:
        return s.screen(cb, cs)
    if code == 2:
        return s.overlay(cb, cs)
    if code == 3:
        return s.darken(cb, cs)
    if code == 4:
        return s.lighten(cb, cs)
    if code == 5:
        return s.color_dodge(cb, cs)
    if code == 6:
        return s.color_burn(cb, cs)
    if code == 7:
        return s.hard_light(cb, cs)
    if code == 8:
        return s.soft_light(cb, cs)
    if code == 9:
        return s.difference(cb, cs)
    return s.exclusion(cb, cs)


@formula
def non_separable(code: int, cb: n.Rgb, cs: n.Rgb) -> n.Rgb:
    """B of a pixel for the mode NON_SEPARABLE[code]."""
    if code == 0:
        return n.hue(cb, cs)
    if code == 1:
        return n.saturation(cb, cs)
    if code == 2:
        return n.color(cb, cs)
    return n.luminosity(cb, cs)


@kernel
def _mix_normal(px: Planes, cs: Planes, alpha: Plane) -> None:
    for c in range(px.shape[0]):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                px[c, i, j] += alpha[i, j] * (cs[c, i, j] - px[c, i, j])


@kernel
def _mix_separable(code: int, px: Planes, cs: Planes, alpha: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            a = alpha[i, j]
            if a != 0.0:
                for c in range(3):
                    cb = px[c, i, j]
                    px[c, i, j] = cb + a * (separable(code, clamp01(cb), clamp01(cs[c, i, j])) - cb)


@kernel
def _mix_non_separable(code: int, px: Planes, cs: Planes, alpha: Plane) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            a = alpha[i, j]
            if a != 0.0:
                cb = (clamp01(px[0, i, j]), clamp01(px[1, i, j]), clamp01(px[2, i, j]))
                source = (clamp01(cs[0, i, j]), clamp01(cs[1, i, j]), clamp01(cs[2, i, j]))
                mixed = non_separable(code, cb, source)
                px[0, i, j] += a * (mixed[0] - px[0, i, j])
                px[1, i, j] += a * (mixed[1] - px[1, i, j])
                px[2, i, j] += a * (mixed[2] - px[2, i, j])


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


def fade(alpha: Plane | None, opacity: float, mask: Plane | None, shape: tuple[int, int]) -> Plane:
    """a = layer alpha · opacity · mask, a new plane; None counts as 1."""
    out = np.full(shape, np.float32(opacity), np.float32)
    if alpha is not None:
        out *= alpha
    if mask is not None:
        out *= mask
    return out
