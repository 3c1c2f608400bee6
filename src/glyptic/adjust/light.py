"""Light: highlights, shadows, whites and blacks on an edge-preserving base, so that local detail stays.

Source of the base: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010 (pixels/guided.py).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.adjust.on_base import OnBase, radius
from glyptic.blend import flat
from glyptic.params import Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space
from glyptic.pixels.tables import Function, Table, make_table, through
from glyptic.pixels.tones import move_tone

EDGE = 0.05
"""A difference of tone that begins to count as an edge rather than as detail."""
LIFT = 2.4
"""How strongly full shadows lift: L* 25 goes to 50; the slope stays between 0.4 and 3.4."""
END = 0.2
"""How far full whites and blacks move their end, in tone."""
FINE = 4096
WIDEST = 0.02
"""The window of a new layer as a share of the picture's longer side."""
Tones = NDArray[np.float64]


def _lifted(t: Tones, amount: float) -> Tones:
    """Tone with the shadows lifted by 0..1: t + 2.4 · amount · t (1 − t)³, which holds black and white."""
    inside = np.clip(t, 0, 1)
    return t + LIFT * amount * inside * (1 - inside) ** 3


def shadows(t: Tones, amount: float) -> Tones:
    """`_lifted` for amounts above 0, and its inverse below."""
    if amount >= 0:
        return _lifted(t, amount)
    at = np.linspace(0, 1, FINE)
    return np.where((t > 0) & (t < 1), np.interp(t, _lifted(at, -amount), at), t)


def ends(t: Tones, whites: float, blacks: float) -> Tones:
    """Tone with its ends moved: + whites · t⁴ / 5, and + blacks · (1 − t)⁴ / 5 mirrored."""
    inside = np.clip(t, 0, 1)
    return t + END * (whites * inside**4 + blacks * (1 - inside) ** 4)


def moved(settings: Values) -> Function:
    """What becomes of the base's tone; grows with tone whatever the settings."""

    def move(t: Tones) -> Tones:
        t = 1 - shadows(1 - np.asarray(t, np.float64), -settings["highlights"])
        return ends(shadows(t, settings["shadows"]), settings["whites"], settings["blacks"])

    return move


@dataclass(frozen=True)
class Moving:
    """The table of what becomes of the base's tone, and the space that tone is of."""

    table: Table
    space: Space


def _amount(label: str, help_text: str) -> Real:
    return Real(label=label, help=help_text, default=0.0, unit="%", low=-1, high=1, step=0.01)


class Light(OnBase):
    """t' = F(base) + (t − base), the light scaled from tone t to t'. F lifts shadows by 2.4 s t (1 − t)³ (or undoes
    that, for s below 0), lowers highlights the same way mirrored, then moves the ends by a fifth of t⁴ and (1 − t)⁴.
    The base is the guided filter of tone with Gaussian windows of sigma radius / 2 and epsilon 0.05²."""

    name = "light"
    title = "Light"
    purpose = "Light"
    rank = 3
    summary = "Brings back highlights, opens shadows and sets whites and blacks, while local detail stays."
    edge = EDGE
    sample = {"highlights": -0.7, "shadows": 0.6}
    schema = Schema(
        {
            "highlights": _amount("Highlights", "Below 0 brings detail back into the bright parts."),
            "shadows": _amount("Shadows", "Above 0 opens the dark parts."),
            "whites": _amount("Whites", "Moves the brightest tones, their end included."),
            "blacks": _amount("Blacks", "Moves the darkest tones, their end included; below 0 deepens."),
            "radius": radius("How far it looks for what is bright or dark as a whole.", 60.0, 10, 400),
        }
    )  # fmt: skip

    def starting(self, width: int, height: int) -> dict[str, Any]:
        return {"radius": float(max(10, round(WIDEST * max(width, height))))}

    def is_neutral(self, settings: Values) -> bool:
        return not any(settings[name] for name in ("highlights", "shadows", "whites", "blacks"))

    def ready(self, settings: Values, space: Space) -> Moving:
        return Moving(make_table(moved(settings)), space)

    def lay(self, ready: Moving, around: Planes, px: Planes, alpha: Plane) -> None:
        tones, base = self.parted(around, px, ready.space)
        detail = tones - base
        through(base[None], flat(1.0, base.shape), (ready.table,))
        move_tone(px, alpha, tones, base + detail)


LIGHT = Light()
