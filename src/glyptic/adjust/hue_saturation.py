"""Hue, saturation and lightness, of all colours or of one family."""

from __future__ import annotations

import math
from typing import Any

from numpy import float32

from glyptic.adjust.family import WHOLE_RING, family
from glyptic.adjust.kind import Aid, PointWise
from glyptic.params import Angle, Real, Schema, Toggle, Values
from glyptic.pixels.compiled import Plane, Planes, kernel
from glyptic.pixels.hues import belongs, border_of, centred
from glyptic.pixels.oklab import oklab
from glyptic.pixels.oklch import fit, lay_row, rows
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Primaries, Space

ONE, HALF_TURN, NOTHING = float32(1), float32(180), float32(0)
FAMILY = 60.0
"""Degrees of a family that was picked."""
SATURATED = 0.3
"""The chroma of a tint at full saturation: about that of the purest a common screen shows."""


@kernel
def _turn(
    px: Planes, alpha: Plane, cos: float, sin: float, saturation: float, lightness: float, centre: float, half: float,
    border: float, of: Primaries,
) -> None:  # fmt: skip
    l, a, b, share, spare = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            light, x, y = oklab(px[0, i, j], px[1, i, j], px[2, i, j], of)
            w = ONE if half >= HALF_TURN else belongs(x, y, centre, half, border)
            more = ONE + w * (saturation - ONE)
            room = ONE - light if lightness > NOTHING else light
            l[j] = light + w * lightness * room
            a[j] = (x + w * (x * cos - y * sin - x)) * more
            b[j] = (y + w * (x * sin + y * cos - y)) * more
            share[j] = alpha[i, j] if w > NOTHING else NOTHING
        fit(l, a, b, spare, of)
        lay_row(px, i, l, a, b, share)


@kernel
def _tint(px: Planes, alpha: Plane, x: float, y: float, lightness: float, of: Primaries) -> None:
    l, a, b, _, spare = rows(px.shape[2])
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            light, _, _ = oklab(px[0, i, j], px[1, i, j], px[2, i, j], of)
            room = ONE - light if lightness > NOTHING else light
            l[j], a[j], b[j] = light + lightness * room, x, y
        fit(l, a, b, spare, of)
        lay_row(px, i, l, a, b, alpha[i])


class HueSaturation(PointWise):
    """In OKLCh (CSS Color 4): the hue turned, C · (1 + saturation), L moved by lightness · (1 − L), or · L where it is
    negative; weighted by how far a colour belongs to the family; brought into range by lowering chroma. As a tint, hue
    and chroma are one for all: chroma 0.3 · (1 + saturation) / 2 at the hue. What lies beyond 0..1 keeps its distance.
    """

    name = "hue-saturation"
    title = "Hue & saturation"
    purpose = "Colour"
    rank = 2
    summary = "Turns colours, makes them stronger, paler, lighter or darker: all of them, or one family."
    picks = (
        Aid("family", "Pick the family", "Press on a colour of the picture; its hue becomes the family's middle."),
    )
    sample = {"saturation": 0.45}
    schema = Schema(
        {
            "hue": Angle(label="Hue", default=0.0, help="Turns every colour on the ring; as a tint, the hue itself."),
            "saturation": Real(label="Saturation", help="At the bottom colours become grey.", default=0.0, unit="%",
                               low=-1, high=2, step=0.01, soft_low=-1, soft_high=1),
            "lightness": Real(label="Lightness", help="Towards white or towards black.", default=0.0, unit="%",
                              low=-1, high=1, step=0.01),
            "tint": Toggle(label="One tint", default=False, help="All in one hue, as a toned print."),
            **family(0.0, WHOLE_RING),
        }
    )  # fmt: skip

    def pick(self, settings: Values, name: str, seen: Seen, by: float) -> dict[str, Any]:
        width = settings["width"] if settings["width"] < WHOLE_RING else FAMILY
        return {"centre": round(seen.hue, 1), "width": width}

    def is_neutral(self, settings: Values) -> bool:
        moves = settings["hue"] % 360 or settings["saturation"] or settings["lightness"]
        return not (moves or settings["tint"])

    def ready(self, settings: Values, space: Space) -> tuple[bool, tuple[float32 | Primaries, ...]]:
        """Whether it is a tint, and the kernel's numbers."""
        angle, more = math.radians(settings["hue"]), 1 + settings["saturation"]
        cos, sin, lightness = math.cos(angle), math.sin(angle), settings["lightness"]
        if settings["tint"]:
            chroma = SATURATED * more / 2
            return True, (float32(chroma * cos), float32(chroma * sin), float32(lightness), space.of)
        family = centred(settings["centre"]), settings["width"] / 2, border_of(settings["border"])
        return False, (*(float32(n) for n in (cos, sin, more, lightness, *family)), space.of)

    def lay(self, ready: tuple[bool, tuple[float32 | Primaries, ...]], px: Planes, alpha: Plane, patch: Patch) -> None:
        is_tint, numbers = ready
        (_tint if is_tint else _turn)(px, alpha, *numbers)


HUE_SATURATION = HueSaturation()
