"""Sharpening: fine detail of tone made stronger, held back in noise and where it would overshoot."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.adjust.kind import Neighbourhood
from glyptic.params import Length, Real, Schema, Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.spaces import Space, tone
from glyptic.pixels.tones import move_tone
from glyptic.pixels.vector import ONE, size

LEAST = float32(1e-4)


@kernel
def _sharpened(tones: Plane, blurred: Plane, amount: float, noise: float, most: float, out: Plane) -> None:
    """The tones with their detail amplified."""
    for i in range(tones.shape[0]):
        for j in range(tones.shape[1]):
            detail = tones[i, j] - blurred[i, j]
            strength = detail * detail / (detail * detail + noise * noise)
            more = amount * detail * strength
            out[i, j] = tones[i, j] + more / (ONE + size(more) / most)


class Sharpen(Neighbourhood):
    """Unsharp masking of tone: d = t − Gauss(t); m = amount · d · d²/(d² + noise²); t' = t + m / (1 + |m| / limit); the
    light scaled from tone t to t'. The limit is the most a tone moves, so that no edge gets a bright or dark seam."""

    name = "sharpen"
    title = "Sharpen"
    purpose = "Detail"
    rank = 2
    summary = "Makes fine edges crisper; noise and strong edges are held back."
    planes = 1
    sample = {"amount": 1.5}
    schema = Schema(
        {
            "amount": Real(label="Amount", help="How much the detail is amplified.", default=0.0, unit="%", low=0,
                           high=5, step=0.01, soft_low=0, soft_high=3),
            "radius": Length(label="Radius", help="The Gaussian's sigma: the size of the detail.", default=1.5,
                             low=0.2, high=50, step=0.1, soft_low=0.2, soft_high=10),
            "noise": Real(label="Noise", help="Differences of tone smaller than this are held back.", unit="%",
                          default=0.005, low=0, high=0.2, step=0.001, soft_low=0, soft_high=0.05),
            "limit": Real(label="Limit", help="The most a tone moves, against seams along strong edges.", unit="%",
                          default=0.1, above=0, high=1, step=0.01, soft_low=0.01, soft_high=0.5),
        }
    )  # fmt: skip

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["amount"] == 0)

    def gaze(self, settings: Values) -> Values:
        return Values({"radius": settings["radius"]})

    def reduction(self, settings: Values, step: float) -> int:
        return gaussian.reduction(settings["radius"] / step)

    def coarser(self, settings: Values, step: float) -> int:
        return gaussian.coarser(settings["radius"] / step)

    def reach(self, settings: Values, step: float) -> int:
        return gaussian.small_reach(settings["radius"] / step)

    def around(self, settings: Values, px: Planes, step: float, space: Space) -> Planes:
        return gaussian.small_blur(tone(px, space)[None], settings["radius"] / step)

    def ready(self, settings: Values, space: Space) -> tuple[Space, tuple[float32, ...]]:
        noise = max(float32(settings["noise"]), LEAST)
        return space, (float32(settings["amount"]), noise, float32(settings["limit"]))

    def lay(self, ready: tuple[Space, tuple[float32, ...]], around: Planes, px: Planes, alpha: Plane) -> None:
        space, numbers = ready
        tones = tone(px, space)
        sharp = np.empty_like(tones)
        _sharpened(tones, around[0], *numbers, sharp)
        move_tone(px, alpha, tones, sharp)


SHARPEN = Sharpen()
