"""Split toning: one colour for the shadows, another for the highlights."""

from __future__ import annotations

import math

from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.params import Hue, Real, Schema, Values
from glyptic.params.scalar import share
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fit, lay_row, rows
from glyptic.pixels.shapes import Patch, smoothstep
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import tone_of
from glyptic.pixels.vector import ONE

FULL = 0.16
"""The chroma that full saturation adds."""
HALF_FADE = 0.35
"""Half the width, in tone, over which shadows become highlights."""
SWING = 0.35
"""How far full balance moves the middle of that, in tone."""


@kernel
def _tone_apart(
    px: Planes, alpha: Plane, dark_a: float, dark_b: float, light_a: float, light_b: float, low: float, high: float,
    of: Primaries,
) -> None:  # fmt: skip
    l, a, b, _, spare = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            red, green, blue = px[0, i, j], px[1, i, j], px[2, i, j]
            lights = smoothstep(low, high, tone_of(luminance(red, green, blue, of)))
            darks = ONE - lights
            light, x, y = oklab(red, green, blue, of)
            l[j] = light
            a[j] = x + darks * dark_a + lights * light_a
            b[j] = y + darks * dark_b + lights * light_b
        fit(l, a, b, spare, of)
        lay_row(px, i, l, a, b, alpha[i])


class SplitTone(PointWise):
    """In Oklab (CSS Color 4): a, b += (1 − w) · shadows + w · highlights, each of chroma 0.16 · saturation at its hue;
    w = smoothstep(m − 0.35, m + 0.35, t) with m = 0.5 − 0.35 · balance, so that the two weights add up to 1. L stays;
    brought into range by lowering chroma."""

    name = "split-tone"
    title = "Split toning"
    purpose = "Colour"
    rank = 5
    summary = "Tints shadows and highlights in two colours, such as cool darks and warm lights."
    sample = {"shadow_saturation": 0.45, "highlight_saturation": 0.4}
    schema = Schema(
        {
            "shadow_hue": Hue(label="Shadows", default=250.0, help="The hue of the dark parts."),
            "shadow_saturation": share("Saturation", "How strongly the dark parts are tinted.", 0.0),
            "highlight_hue": Hue(label="Highlights", default=75.0, help="The hue of the bright parts."),
            "highlight_saturation": share("Saturation", "How strongly the bright parts are tinted.", 0.0),
            "balance": Real(label="Balance", help="Above 0 more of the picture counts as bright.", default=0.0,
                            unit="%", low=-1, high=1, step=0.01, ends=("shadows", "highlights")),
        }
    )  # fmt: skip

    def is_neutral(self, settings: Values) -> bool:
        return not (settings["shadow_saturation"] or settings["highlight_saturation"])

    def opposite(self, settings: Values) -> Values:
        """The colours across the ring."""
        turned = {name: (settings[name] + 180) % 360 for name in ("shadow_hue", "highlight_hue")}
        return settings if self.is_neutral(settings) else Values({**settings, **turned})

    def ready(self, settings: Values, space: Space) -> tuple[float32 | Primaries, ...]:
        numbers = []
        for name in ("shadow", "highlight"):
            angle, chroma = math.radians(settings[f"{name}_hue"]), FULL * settings[f"{name}_saturation"]
            numbers += [chroma * math.cos(angle), chroma * math.sin(angle)]
        middle = 0.5 - SWING * settings["balance"]
        return *(float32(n) for n in (*numbers, middle - HALF_FADE, middle + HALF_FADE)), space.of

    def lay(self, ready: tuple[float32 | Primaries, ...], px: Planes, alpha: Plane, patch: Patch) -> None:
        _tone_apart(px, alpha, *ready)


SPLIT_TONE = SplitTone()
