"""Vignette: light held back or lifted outside an ellipse."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.adjust.kind import PointWise
from glyptic.params import Point, Radii, Real, Schema, Turn, Values
from glyptic.params.scalar import share
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.relit import mix_row, relight
from glyptic.pixels.shapes import Patch, oval
from glyptic.pixels.transfer import NOTHING, PER_GAMMA
from glyptic.pixels.vector import ONE, exp2


@kernel
def _darken(px: Planes, alpha: Plane, inside: Plane, stops: float) -> None:
    room = np.empty((4, px.shape[2]), np.float32)
    gain, root, share, lit = room[0], room[1], room[2], room[3]
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            v = ONE - inside[i, j]
            gain[j], root[j] = exp2(stops * v), exp2(stops * v * PER_GAMMA)
            share[j] = alpha[i, j] if v > NOTHING else NOTHING
        for c in range(3):
            relight(px[c, i], gain, root, lit)
            mix_row(px[c, i], lit, share)


class Vignette(PointWise):
    """Cs = enc(lin(Cb) · 2^(stops · v)), v the share outside the ellipse; inside it every bit is kept."""

    name = "vignette"
    title = "Vignette"
    purpose = "Fills & shapes"
    rank = 3
    summary = "Darkens or lightens what lies outside an ellipse, and so leads the eye in."
    sample = {"stops": -1.6}
    schema = Schema(
        {
            "stops": Real(label="Strength", help="Negative darkens the edges.", default=0.0, unit="stops",
                          low=-20, high=20, step=0.05, soft_low=-3, soft_high=3),
            "centre": Point(label="Centre", help="The middle of the ellipse."),
            "radii": Radii(label="Radii", help="Half its width and height."),
            "rotation": Turn(label="Turn", default=0.0, help="Turns the ellipse clockwise."),
            "softness": share("Softness", "The share of the radius over which it fades in.", 0.0),
        }
    )  # fmt: skip

    def starting(self, width: int, height: int) -> dict[str, Any]:
        centre, radii = [width / 2, height / 2], [width * 0.65, height * 0.65]
        return {"centre": centre, "radii": radii, "softness": 0.6}

    def is_neutral(self, settings: Values) -> bool:
        return bool(settings["stops"] == 0)

    def lay(self, ready: Values, px: Planes, alpha: Plane, patch: Patch) -> None:
        inside = oval(patch, ready["centre"], ready["radii"], ready["rotation"], ready["softness"])
        if inside.min() < 1:
            _darken(px, alpha, inside, np.float32(ready["stops"]))


VIGNETTE = Vignette()
