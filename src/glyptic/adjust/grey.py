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
from glyptic.pixels.oklch import light
from glyptic.pixels.shapes import window
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import BLACK, LEAST, NOTHING, enc, lin, tone_of
from glyptic.pixels.vector import HALF, ONE, clamp01

NEUTRAL = 0.5


@kernel
def _within_reach(
    grey: Plane, px: Planes, of: Primaries, low: float, high: float, soft_low: float, soft_high: float, out: Plane
) -> None:
    for i in range(grey.shape[0]):
        for j in range(grey.shape[1]):
            t = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j], of))
            out[i, j] = HALF + (grey[i, j] - HALF) * window(low, high, soft_low, soft_high, t)


@formula
def _relit(r: float, g: float, b: float, y: float, of: Primaries) -> tuple[float, float, float]:
    """Linear light of r, g, b in 0..1 scaled to luminance y, drawn towards grey as far as it takes to lie in 0..1."""
    below = luminance(r, g, b, of)
    black = below <= BLACK
    scale = y / (BLACK if black else below)
    red, green, blue = lin(r) * scale, lin(g) * scale, lin(b) * scale
    red, green, blue = y if black else red, y if black else green, y if black else blue
    top = red if red > green else green
    top = top if top > blue else blue
    over = top - y
    k = (ONE - y) / (over if over > LEAST else LEAST) if top > ONE else ONE
    return clamp01(y + (red - y) * k), clamp01(y + (green - y) * k), clamp01(y + (blue - y) * k)


@formula
def _most(y: float) -> float:
    return y if y < ONE else ONE


@kernel
def _hold(px: Planes, blended: Planes, grey: Plane, alpha: Plane, keeps_grey: bool, of: Primaries) -> None:
    """C = Cb + a (B' − Cb'), B' the clamped backdrop's colour in linear light at the luminance of `blended`, drawn
    towards grey to fit 0..1; where grey is neutral every bit is kept."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b = clamp01(px[0, i, j]), clamp01(px[1, i, j]), clamp01(px[2, i, j])
            y = _most(luminance(blended[0, i, j], blended[1, i, j], blended[2, i, j], of))
            red, green, blue = _relit(r, g, b, y, of)
            a = NOTHING if keeps_grey and grey[i, j] == HALF else alpha[i, j]
            px[0, i, j] += a * (clamp01(enc(red)) - r)
            px[1, i, j] += a * (clamp01(enc(green)) - g)
            px[2, i, j] += a * (clamp01(enc(blue)) - b)


@formula
def _reaches(inside: float, wanted: float) -> float:
    """How far from a value in 0..1 one can go to another before 0..1 is left, as a share of the way."""
    way = wanted - inside
    up, down = (ONE - inside) / (way if way > LEAST else LEAST), inside / (-way if -way > LEAST else LEAST)
    return clamp01(up if way > NOTHING else down)


@kernel
def _hold_chroma(px: Planes, blended: Planes, grey: Plane, alpha: Plane, keeps_grey: bool, of: Primaries) -> None:
    """As `_hold`, but B' has the Oklab lightness of `blended` and Oklab a and b of the clamped backdrop; where there is
    no such colour, B' lies on the way there, in linear light, from what `_hold` gives, as far as 0..1 reaches."""
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b = clamp01(px[0, i, j]), clamp01(px[1, i, j]), clamp01(px[2, i, j])
            y = _most(luminance(blended[0, i, j], blended[1, i, j], blended[2, i, j], of))
            red, green, blue = _relit(r, g, b, y, of)
            _, lab_a, lab_b = oklab(r, g, b, of)
            l, _, _ = oklab(blended[0, i, j], blended[1, i, j], blended[2, i, j], of)
            to_red, to_green, to_blue = light(l, lab_a, lab_b, of)
            t = min(min(_reaches(red, to_red), _reaches(green, to_green)), _reaches(blue, to_blue))  # noqa: PLW3301
            a = NOTHING if keeps_grey and grey[i, j] == HALF else alpha[i, j]
            px[0, i, j] += a * (clamp01(enc(red + t * (to_red - red))) - r)
            px[1, i, j] += a * (clamp01(enc(green + t * (to_green - green))) - g)
            px[2, i, j] += a * (clamp01(enc(blue + t * (to_blue - blue))) - b)


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
    channelwise = True
    summary = "A neutral layer to dodge and burn on: paint lighter or darker, the picture below follows."
    schema = Schema(
        {
            "hold_colour": Toggle(label="Hold colour", default=False,
                                  help="Only tone changes; the colour stays that of the picture."),
            "holds": Choice(
                label="What is held", options=("saturation", "chroma"), default="saturation",
                titles=("saturation, as in other light", "chroma, as vivid as before"),
                help="Saturation: less light on the same thing, which looks less vivid. Chroma: as vivid when darker "
                "or lighter, as far as there are such colours; beyond, it gives way towards saturation.",
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

    def apply(self, settings: Values, mode: str, px: Planes, painted: Plane, alpha: Plane, space: Space) -> None:
        """Dodge and burn `px` (3, h, w) in place; painted: (h, w), 0.5 where nothing is to change."""
        reach = settings["reach"]
        if reach is not None:
            within = np.empty_like(painted)
            ends = (np.float32(reach[name]) for name in ("low", "high", "soft_low", "soft_high"))
            _within_reach(painted, px, space.of, *ends, within)
            painted = within
        neutral = mode in NEUTRAL_MODES
        if neutral and not settings["hold_colour"]:
            mix_grey(px, painted, alpha, mode)
            return
        blended = np.clip(px, 0, 1)
        mix(blended, np.broadcast_to(painted, px.shape).copy(), flat(1.0, alpha.shape), mode)
        if settings["hold_colour"]:
            HOLDS[settings["holds"]](px, blended, painted, alpha, neutral, space.of)
        else:
            _finish(px, blended, alpha)


GREY = Grey()
