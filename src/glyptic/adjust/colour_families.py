"""Colour families: one family of colours, or the darks, mids, lights or neutrals, moved in colour and in lightness."""

from __future__ import annotations

from typing import Any

from numpy import float32

from glyptic.adjust.family import family
from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Choice, Real, Schema, Values
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.hues import HALF_TURN, belongs, border_of, centred
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fit, lay_row, rows
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch, eased
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import tone_of
from glyptic.pixels.vector import ONE, clamp01, root

BY = ("hue", "darks", "mids", "lights", "neutrals")
STRONGEST = 0.12
"""How far a full move goes along Oklab's axes."""
NOTHING = float32(0)
FADE = float32(1 / 0.45)
DARKS_FROM, LIGHTS_FROM = float32(0.1), float32(0.45)
PALE, PER_FADE = float32(0.02), float32(1 / 0.06)
"""Chroma up to which a colour is neutral, and over how much more it fades out of that."""


@formula
def _weight(by: int, a: float, b: float, t: float, centre: float, half: float, border: float) -> float:
    """How far a colour belongs to what is moved; `by` is the place in BY."""
    dark = ONE - eased(clamp01((t - DARKS_FROM) * FADE))
    bright = eased(clamp01((t - LIGHTS_FROM) * FADE))
    pale = ONE - eased(clamp01((root(a * a + b * b) - PALE) * PER_FADE))
    hue = ONE if half >= HALF_TURN else belongs(a, b, centre, half, border)
    w = hue if by == 0 else pale
    w = dark if by == 1 else w
    w = ONE - dark - bright if by == 2 else w
    return bright if by == 3 else w


@kernel
def _move(
    px: Planes, alpha: Plane, by: int, centre: float, half: float, border: float, x: float, y: float, lightness: float,
    of: Primaries,
) -> None:  # fmt: skip
    l, a, b, share, spare = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            light, u, v = oklab(red, green, blue, of)
            w = _weight(by, u, v, tone_of(luminance(red, green, blue, of)), centre, half, border)
            room = ONE - light if lightness > NOTHING else light
            l[j], a[j], b[j] = light + w * lightness * room, u + w * x, v + w * y
            share[j] = alpha[i, j] if w > NOTHING else NOTHING
        fit(l, a, b, spare, of)
        lay_row(px, i, l, a, b, share)


class ColourFamilies(PointWise):
    """In Oklab (CSS Color 4), weighted by w: a + 0.12 · w · red, b + 0.12 · w · yellow, L + w · lightness · (1 − L), or
    · L below 0. w is 1 within the family's width on the hue ring and vanishes smoothly over its border and towards
    grey; or that of the darks, mids or lights, which add up to 1; or 1 for greys, vanishing by a chroma of 0.08."""

    name = "colour-families"
    title = "Colour families"
    purpose = "Colour"
    rank = 6
    summary = "Moves one family of colours, or the darks, mids, lights or neutrals, towards another colour."
    picks = (
        Aid("family", "Pick the family", "Press on a colour of the picture; its hue becomes the family's middle."),
    )
    sample = {"by": "lights", "red": 0.25, "yellow": 0.5}
    schema = Schema(
        {
            "by": Choice(label="Which", options=BY, titles=("A hue", "Darks", "Mids", "Lights", "Neutrals"),
                         default="hue", help="What is moved: a family on the hue ring, or a range of tone."),
            **family(30.0, 60.0),
            "red": Real(label="Red", help="Above 0 towards red, below 0 towards green.", default=0.0, unit="%", low=-1,
                        high=1, step=0.01, ends=("green", "red")),
            "yellow": Real(label="Yellow", help="Above 0 towards yellow, below 0 towards blue.", default=0.0, unit="%",
                           low=-1, high=1, step=0.01, ends=("blue", "yellow")),
            "lightness": Real(label="Lightness", help="Towards white or towards black.", default=0.0, unit="%", low=-1,
                              high=1, step=0.01, ends=("black", "white")),
        }
    )  # fmt: skip

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        return {"by": "hue", "centre": round(seen.hue, 1)}

    def is_neutral(self, settings: Values) -> bool:
        return not (settings["red"] or settings["yellow"] or settings["lightness"])

    def ready(self, settings: Values, space: Space) -> tuple[int | float32 | Primaries, ...]:
        shape = centred(settings["centre"]), settings["width"] / 2, border_of(settings["border"])
        move = STRONGEST * settings["red"], STRONGEST * settings["yellow"], settings["lightness"]
        return BY.index(settings["by"]), *(float32(n) for n in (*shape, *move)), space.of

    def lay(self, ready: tuple[int | float32 | Primaries, ...], px: Planes, alpha: Plane, patch: Patch) -> None:
        _move(px, alpha, *ready)


COLOUR_FAMILIES = ColourFamilies()
