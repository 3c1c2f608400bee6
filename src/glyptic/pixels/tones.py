"""Moving tone while colour stays: linear light is scaled from the luminance it has to that of the new tone."""

from __future__ import annotations

from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.srgb import BLACK, LEAST, NOTHING, PER_GAMMA, enc, lit, luminance, luminance_of
from glyptic.pixels.vector import power


@kernel
def move_tone(px: Planes, alpha: Plane, tones: Plane) -> None:
    """Light scaled from the tone it has to `tones` (below 0 counts as 0), mixed in by alpha, in place; where there is
    no light, grey of the new tone.

    px: (3, h, w) encoded; alpha, tones: (h, w).
    """
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b, a = px[0, i, j], px[1, i, j], px[2, i, j], alpha[i, j]
            y = luminance(r, g, b)
            t = tones[i, j]
            new = luminance_of(t if t > NOTHING else NOTHING)
            gain = new / (y if y > BLACK else BLACK)
            root = power(gain if gain > LEAST else LEAST, PER_GAMMA)
            grey = enc(new)
            coloured = y > BLACK
            px[0, i, j] = r + a * ((lit(r, gain, root) if coloured else grey) - r)
            px[1, i, j] = g + a * ((lit(g, gain, root) if coloured else grey) - g)
            px[2, i, j] = b + a * ((lit(b, gain, root) if coloured else grey) - b)
