"""Local contrast: detail on an edge-preserving base made stronger or weaker.

Source of the base: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010 (pixels/guided.py).
"""

from __future__ import annotations

from typing import Any

from numpy import float32

from glyptic.adjust.on_base import OnBase, radius
from glyptic.params import Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.spaces import Space
from glyptic.pixels.tones import move_tone

EDGE = 0.08
"""A difference of tone that begins to count as an edge rather than as detail."""
USUAL = 0.01
"""The window of a new layer as a share of the picture's longer side."""


@kernel
def _amplify(tones: Plane, base: Plane, amount: float) -> None:
    """base becomes the tones with their detail on it made stronger."""
    for i in range(tones.shape[0]):
        for j in range(tones.shape[1]):
            t = tones[i, j]
            base[i, j] = t + amount * (t - base[i, j])


class LocalContrast(OnBase):
    """t' = base + (1 + amount) · (t − base), the light scaled from tone t to t'. The base is the guided filter of tone
    with Gaussian windows of sigma radius / 2 and epsilon 0.08²."""

    name = "local-contrast"
    title = "Local contrast"
    purpose = "Detail"
    summary = "Makes shapes and surfaces more plastic, or calmer, and leaves strong edges without halos."
    edge = EDGE
    sample = {"amount": 0.9}
    schema = Schema(
        {
            "amount": Real(label="Amount", help="Below 0 evens detail out.", default=0.0, unit="%", low=-1, high=3,
                           step=0.01, soft_low=-1, soft_high=1.5),
            "radius": radius("The size of what counts as detail.", 30.0, 5, 200),
        }
    )  # fmt: skip

    def starting(self, width: int, height: int) -> dict[str, Any]:
        return {"radius": float(max(8, round(USUAL * max(width, height))))}

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["amount"] == 0)

    def ready(self, settings: Values, space: Space) -> tuple[float32, Space]:
        return float32(settings["amount"]), space

    def lay(self, ready: tuple[float32, Space], around: Planes, px: Planes, alpha: Plane) -> None:
        amount, space = ready
        tones, base = self.parted(around, px, space)
        _amplify(tones, base, amount)
        move_tone(px, alpha, tones, base)


LOCAL_CONTRAST = LocalContrast()
