"""Grey layers: 50 % grey that changes nothing until it is painted lighter or darker."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.adjust.kind import Kind
from glyptic.blend import NEUTRAL_MODES, flat, mix, mix_grey
from glyptic.document.fields import TONE_WINDOW, in_order
from glyptic.params import Choice, Group, Schema, Toggle, Values
from glyptic.pixels.compiled import Plane, Planes, formula, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fit, lay_row, rows
from glyptic.pixels.shapes import window
from glyptic.pixels.srgb import BLACK, LEAST, NOTHING, enc, lin, luminance, tone_of
from glyptic.pixels.vector import HALF, ONE, clamp01

NEUTRAL = 0.5


@kernel
def _within_reach(
    grey: Plane, px: Planes, low: float, high: float, soft_low: float, soft_high: float, out: Plane
) -> None:
    for i in range(grey.shape[0]):
        for j in range(grey.shape[1]):
            t = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j]))
            out[i, j] = HALF + (grey[i, j] - HALF) * window(low, high, soft_low, soft_high, t)


@formula
def _drawn_in(light: float, y: float, k: float) -> float:
    """Light drawn towards grey of luminance y, encoded."""
    return clamp01(enc(y + (light - y) * k))


@kernel
def _hold(px: Planes, blended: Planes, grey: Plane, alpha: Plane, keeps_grey: bool) -> None:
    """C = Cb + a (B' − Cb'), B' the clamped backdrop's colour in linear light at the luminance of `blended`, drawn
    towards grey to fit 0..1; where grey is neutral every bit is kept."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b = clamp01(px[0, i, j]), clamp01(px[1, i, j]), clamp01(px[2, i, j])
            below = luminance(r, g, b)
            y = luminance(blended[0, i, j], blended[1, i, j], blended[2, i, j])
            y = y if y < ONE else ONE
            black = below <= BLACK
            scale = y / (BLACK if black else below)
            red, green, blue = lin(r) * scale, lin(g) * scale, lin(b) * scale
            red, green, blue = y if black else red, y if black else green, y if black else blue
            top = red if red > green else green
            top = top if top > blue else blue
            over = top - y
            k = (ONE - y) / (over if over > LEAST else LEAST) if top > ONE else ONE
            a = NOTHING if keeps_grey and grey[i, j] == HALF else alpha[i, j]
            px[0, i, j] += a * (_drawn_in(red, y, k) - r)
            px[1, i, j] += a * (_drawn_in(green, y, k) - g)
            px[2, i, j] += a * (_drawn_in(blue, y, k) - b)


@kernel
def _hold_chroma(px: Planes, blended: Planes, grey: Plane, alpha: Plane, keeps_grey: bool) -> None:
    """C = Cb + a (B' − Cb'), B' of the Oklab lightness of `blended` and the Oklab a and b of the clamped backdrop, its
    chroma lowered as far as it takes to lie in 0..1; where grey is neutral every bit is kept."""
    l, a, b, share, room = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            _, a[j], b[j] = oklab(px[0, i, j], px[1, i, j], px[2, i, j])
            l[j], _, _ = oklab(blended[0, i, j], blended[1, i, j], blended[2, i, j])
            share[j] = NOTHING if keeps_grey and grey[i, j] == HALF else alpha[i, j]
        fit(l, a, b, room)
        lay_row(px, i, l, a, b, share)


HOLDS = {"saturation": _hold, "chroma": _hold_chroma}


@kernel
def _finish(px: Planes, blended: Planes, alpha: Plane) -> None:
    """C = Cb + a (B − Cb'), Cb' the clamped backdrop."""
    for c in range(3):
        for i in range(px.shape[1]):
            for j in range(px.shape[2]):
                px[c, i, j] += alpha[i, j] * (blended[c, i, j] - clamp01(px[c, i, j]))


class Grey(Kind):
    """Lightens where it is painted lighter than 50 % and darkens where it is darker (computation.md, Grey layer)."""

    name = "grey"
    title = "Grey layer"
    purpose = "Dodge & burn"
    summary = "A neutral layer to dodge and burn on: paint lighter or darker, the picture below follows."
    schema = Schema(
        {
            "hold_colour": Toggle(label="Hold colour", default=False,
                                  help="Only tone changes; the colour stays that of the picture."),
            "holds": Choice(
                label="What is held", options=("saturation", "chroma"), default="saturation",
                titles=("saturation, as in other light", "chroma, as vivid as before"),
                help="Saturation: less light on the same thing, which looks less vivid. Chroma: as vivid when darker or "
                "lighter, as far as there are such colours; beyond, chroma gives way, never hue.",
            ),
            "reach": Group(label="Reach", schema=Schema(TONE_WINDOW, checks=(in_order,)), nullable=True, default=None,
                           help="Work only in a range of tone."),
        }
    )  # fmt: skip
    default_blend = "soft-light"
    carries = "strokes"
    starts_open = True

    def sampled(self, width: int, height: int) -> dict[str, Any]:
        """One side lightened, the other darkened, by a broad soft stroke each."""
        stroke = {"size": height * 0.6, "hardness": 0, "opacity": 0.5, "flow": 0.5}
        across = [(to, width * x) for to, x in ((1, 0.3), (0, 0.7))]
        return {
            "strokes": [
                {**stroke, "to": to, "points": [[x, height * 0.2, 1], [x, height * 0.8, 1]]} for to, x in across
            ]
        }

    def is_neutral(self, settings: Values) -> bool:
        return False

    def apply(self, settings: Values, mode: str, px: Planes, painted: Plane, alpha: Plane) -> None:
        """Dodge and burn `px` (3, h, w) in place; painted: (h, w), 0.5 where nothing is to change."""
        reach = settings["reach"]
        if reach is not None:
            within = np.empty_like(painted)
            ends = (np.float32(reach[name]) for name in ("low", "high", "soft_low", "soft_high"))
            _within_reach(painted, px, *ends, within)
            painted = within
        neutral = mode in NEUTRAL_MODES
        if neutral and not settings["hold_colour"]:
            mix_grey(px, painted, alpha, mode)
            return
        blended = np.clip(px, 0, 1)
        mix(blended, np.broadcast_to(painted, px.shape).copy(), flat(1.0, alpha.shape), mode)
        if settings["hold_colour"]:
            HOLDS[settings["holds"]](px, blended, painted, alpha, neutral)
        else:
            _finish(px, blended, alpha)


GREY = Grey()
