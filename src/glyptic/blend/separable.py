"""Separable modes: B(cb, cs) of one channel, both in 0..1 (W3C Compositing and Blending Level 1, section 9.1)."""

from __future__ import annotations

from numpy import float32

from glyptic.pixels.compiled import formula
from glyptic.pixels.vector import HALF, ONE, root, size

ZERO, TWO, FOUR = float32(0), float32(2), float32(4)
TWELVE, SIXTEEN, QUARTER = float32(12), float32(16), float32(0.25)
LEAST = float32(1e-30)
"""Stands in for a divisor of 0 where the quotient is not used."""


@formula
def normal(cb: float, cs: float) -> float:
    """The source alone."""
    return cs


@formula
def multiply(cb: float, cs: float) -> float:
    """The product: never lighter than either."""
    return cb * cs


@formula
def screen(cb: float, cs: float) -> float:
    """The product of what is lacking: never darker than either."""
    return cb + cs - cb * cs


@formula
def hard_light(cb: float, cs: float) -> float:
    """Multiplied where the source is dark, screened where it is light."""
    twice = cs + cs
    return multiply(cb, twice) if cs <= HALF else screen(cb, twice - ONE)


@formula
def overlay(cb: float, cs: float) -> float:
    """Hard light with backdrop and source exchanged."""
    return hard_light(cs, cb)


@formula
def darken(cb: float, cs: float) -> float:
    """The darker one."""
    return cb if cb < cs else cs


@formula
def lighten(cb: float, cs: float) -> float:
    """The lighter one."""
    return cb if cb > cs else cs


@formula
def color_dodge(cb: float, cs: float) -> float:
    """The backdrop divided by what the source lacks."""
    left = ONE - cs
    ratio = cb / (left if left > LEAST else LEAST)
    lifted = ratio if ratio < ONE else ONE
    return ZERO if cb <= ZERO else (ONE if cs >= ONE else lifted)


@formula
def color_burn(cb: float, cs: float) -> float:
    """What the backdrop lacks, divided by the source."""
    ratio = (ONE - cb) / (cs if cs > LEAST else LEAST)
    lowered = ONE - (ratio if ratio < ONE else ONE)
    return ONE if cb >= ONE else (ZERO if cs <= ZERO else lowered)


@formula
def soft_light(cb: float, cs: float) -> float:
    """A backdrop darkened or lightened gently by a source below or above a half."""
    d = ((SIXTEEN * cb - TWELVE) * cb + FOUR) * cb if cb <= QUARTER else root(cb)
    return cb + (cs + cs - ONE) * (cb * (ONE - cb) if cs <= HALF else d - cb)


@formula
def difference(cb: float, cs: float) -> float:
    """How far apart the two are."""
    return size(cb - cs)


@formula
def exclusion(cb: float, cs: float) -> float:
    """As difference, with less contrast."""
    return cb + cs - TWO * cb * cs
