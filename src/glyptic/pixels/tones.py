"""Moving tone while colour stays: linear light is scaled from the luminance it has to that of the new tone."""

from __future__ import annotations

import numpy as np

from glyptic.pixels.compiled import Plane, Planes, Row, formula, kernel
from glyptic.pixels.relit import mix_row, relight
from glyptic.pixels.transfer import BLACK, NOTHING, enc, luminance_of
from glyptic.pixels.vector import power_5_12


@formula
def move_light(px: Planes, i: int, alpha: Row, old: Row, new: Row, room: Plane) -> None:
    """Scale the light of row i of `px` from luminance `old` to `new`, mixed in by alpha; where there is no light, grey
    of the new luminance.

    room: (3, w), to work in.
    """
    gain, root, lit = room[0], room[1], room[2]
    is_black = False
    for j in range(old.shape[0]):
        y = old[j]
        gain[j] = new[j] / (y if y > BLACK else BLACK)
        root[j] = power_5_12(gain[j])
    for j in range(old.shape[0]):
        is_black |= old[j] <= BLACK
    for c in range(3):
        relight(px[c, i], gain, root, lit)
        if is_black:
            for j in range(old.shape[0]):
                lit[j] = enc(new[j]) if old[j] <= BLACK else lit[j]
        mix_row(px[c, i], lit, alpha)


@kernel
def move_tone(px: Planes, alpha: Plane, old: Plane, new: Plane) -> None:
    """Light scaled from tone `old`, which it has, to `new` (below 0 counts as 0), mixed in by alpha, in place; where
    there is no light, grey of the new tone.

    px: (3, h, w) encoded; alpha, old, new: (h, w).
    """
    w = px.shape[2]
    room, lights = np.empty((3, w), np.float32), np.empty((2, w), np.float32)
    before, after = lights[0], lights[1]
    for i in range(px.shape[1]):
        for j in range(w):
            t = new[i, j]
            before[j] = luminance_of(old[i, j])
            after[j] = luminance_of(t if t > NOTHING else NOTHING)
        move_light(px, i, alpha[i], before, after, room)
