"""Separable modes: B(cb, cs) of one channel, both in 0..1 (W3C Compositing and Blending Level 1, section 9.1)."""

from __future__ import annotations

from glyptic.pixels.compiled import formula


@formula
def multiply(cb: float, cs: float) -> float:
    return cb * cs


@formula
def screen(cb: float, cs: float) -> float:
    return cb + cs - cb * cs


@formula
def hard_light(cb: float, cs: float) -> float:
    return multiply(cb, 2.0 * cs) if cs <= 0.5 else screen(cb, 2.0 * cs - 1.0)


@formula
def overlay(cb: float, cs: float) -> float:
    return hard_light(cs, cb)


@formula
def darken(cb: float, cs: float) -> float:
    return min(cb, cs)


@formula
def lighten(cb: float, cs: float) -> float:
    return max(cb, cs)


@formula
def color_dodge(cb: float, cs: float) -> float:
    if cb <= 0.0:
        return 0.0
    return 1.0 if cs >= 1.0 else min(1.0, cb / (1.0 - cs))


@formula
def color_burn(cb: float, cs: float) -> float:
    if cb >= 1.0:
        return 1.0
    return 0.0 if cs <= 0.0 else 1.0 - min(1.0, (1.0 - cb) / cs)


@formula
def soft_light(cb: float, cs: float) -> float:
    if cs <= 0.5:
        return cb - (1.0 - 2.0 * cs) * cb * (1.0 - cb)
    d = ((16.0 * cb - 12.0) * cb + 4.0) * cb if cb <= 0.25 else cb**0.5
    return cb + (2.0 * cs - 1.0) * (d - cb)


@formula
def difference(cb: float, cs: float) -> float:
    return abs(cb - cs)


@formula
def exclusion(cb: float, cs: float) -> float:
    return cb + cs - 2.0 * cb * cs
