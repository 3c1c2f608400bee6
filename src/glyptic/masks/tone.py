"""Tone range: what is as dark or as light as asked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from glyptic.document.fields import TONE_WINDOW, in_order
from glyptic.masks.part import OF, Looked
from glyptic.params import Schema, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import window
from glyptic.pixels.spaces import Primaries, Space, luminance
from glyptic.pixels.transfer import tone_of


@kernel
def _in_range(
    px: Planes, of: Primaries, low: float, high: float, soft_low: float, soft_high: float, out: Plane
) -> None:
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            t = tone_of(luminance(px[0, i, j], px[1, i, j], px[2, i, j], of))
            out[i, j] = window(low, high, soft_low, soft_high, t)


@dataclass(frozen=True)
class Window:
    """A range of tone that is often wanted."""

    title: str
    help: str
    values: dict[str, float]


WINDOWS = (
    Window("Shadows", "Whole up to 22 %, gone at 42 %", {"low": 0, "high": 0.22, "soft_low": 0, "soft_high": 0.2}),
    Window("Midtones", "Whole from 42 to 62 %, gone at 22 and 82 %",
           {"low": 0.42, "high": 0.62, "soft_low": 0.2, "soft_high": 0.2}),
    Window("Highlights", "Whole from 82 %, gone at 62 %", {"low": 0.82, "high": 1, "soft_low": 0.2, "soft_high": 0}),
)  # fmt: skip
"""The three add up to the whole at every tone."""

LEAST, USUAL = 0.03, 0.1
"""Half the narrowest range that is picked, and half of that of a part that covered everything, in tone."""


class Tone(Looked):
    """smoothstep(low − soft_low, low, t) · (1 − smoothstep(high, high + soft_high, t))."""

    name = "tone"
    title = "Tone range"
    summary = "Shadows, midtones, highlights, or any range of tone."
    starting: ClassVar[dict[str, Any]] = {"low": 0, "high": 0.4, "soft_high": 0.2}
    schema = Schema({**TONE_WINDOW, "of": OF}, checks=(in_order,))

    def picked(self, settings: Values, seen: Seen, more: bool) -> dict[str, Any]:
        """A range of the width it has around the tone, soft on both sides; or the range widened to hold it too."""
        if more and (settings["low"], settings["high"]) != (0, 1):
            low, high = min(settings["low"], seen.tone), max(settings["high"], seen.tone)
            return {"low": round(max(0.0, low), 3), "high": round(min(1.0, high), 3)}
        width = settings["high"] - settings["low"]
        half = max(width / 2, LEAST) if width < 1 else USUAL
        low, high = max(0.0, seen.tone - half), min(1.0, seen.tone + half)
        soft = max(settings["soft_low"], settings["soft_high"], LEAST)
        return {"low": round(low, 3), "high": round(high, 3), "soft_low": round(soft, 3), "soft_high": round(soft, 3)}

    def coverage_of(self, settings: Values, px: Planes, space: Space) -> Plane:
        out = np.empty(px.shape[1:], np.float32)
        ends = (np.float32(settings[name]) for name in ("low", "high", "soft_low", "soft_high"))
        _in_range(px, space.of, *ends, out)
        return out


TONE = Tone()
