"""Colour that shifted where only tone was worked on: orange shadows, washed lights."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from glyptic.adjust import KINDS
from glyptic.analysis.difference import lab
from glyptic.checks.check import Check, Finding, Mend, by_setting
from glyptic.checks.edges import areas
from glyptic.checks.subject import State, Subject
from glyptic.document.values import Layer
from glyptic.params import Real

TONAL = ("Light", "Dodge & burn")
"""Purposes of kinds that are about tone."""
OF_COLOUR = ("red", "green", "blue")
LEAST_TONE = 0.8
"""L* that must have changed for a pixel to count as worked on."""
EVERY = 2
"""Every so manyth pixel is measured, across and down."""
JOINED, LEAST = 3, 6
LEAST_SHARE = 0.002


class ColourShift(Check):
    """Where a layer that is about tone has changed L*, compares a* and b* with what they would be had colour gone along
    with tone: the same hue, and chroma in proportion to L*."""

    name = "shift"
    title = "Colour shifted with tone"
    reason = "Dodging and burning that shifts colour leaves orange shadows and washed lights."
    rank = 15
    threshold = Real(
        label="Shift", low=1, high=30, default=4.0, step=0.5,
        help="How far in CIE a*, b* a twentieth of what was worked on must be off.",
    )  # fmt: skip

    def look(self, subject: Subject, threshold: float) -> Iterator[Finding]:
        for state in subject.at_work():
            layer = state.layer
            if not _is_tonal(layer):
                continue
            subject.check()
            off, worked = _off(state)
            if worked.mean() < LEAST_SHARE:
                continue
            far = float(np.percentile(off[worked], 95))
            if far < threshold:
                continue
            area = max(areas((off >= threshold) & worked, JOINED, LEAST), key=lambda one: one.pixels, default=None)
            size = EVERY * int(subject.reader_of(layer.id).step)
            yield Finding(
                f"‘{layer.name}’ is about tone and shifts colour: by {far:.1f} in a*, b* where it is most.",
                layer.id, area.rect.scaled(size) if area else None, area.path(size) if area else (),
                far / threshold, "shift", tuple(_mends(layer)),
            )  # fmt: skip


def _is_tonal(layer: Layer) -> bool:
    """Whether a layer means to change tone alone: by its kind, its blend mode and the channels it touches."""
    kind = KINDS[layer.kind]
    if kind.purpose not in TONAL or layer.blend not in ("normal", kind.default_blend):
        return False
    values = layer.settings.get("points", layer.settings)
    return all(values[c] == values_at_rest(kind, c) for c in OF_COLOUR if c in values)


def values_at_rest(kind: object, channel: str) -> object:
    """A channel's neutral setting."""
    schema = getattr(kind, "schema")  # noqa: B009  (kinds of several families)
    param = schema.params.get(channel) or schema.params["points"].schema.params[channel]
    return param.default


def _off(state: State) -> tuple[np.ndarray, np.ndarray]:
    (l1, a1, b1), (l2, a2, b2) = (lab(px[:, ::EVERY, ::EVERY], state.space) for px in (state.below, state.above))
    along = np.clip(l2 / np.maximum(l1, 1.0), 0, 3)
    return np.hypot(a2 - a1 * along, b2 - b1 * along), np.abs(l2 - l1) >= LEAST_TONE


def _mends(layer: Layer) -> Iterator[Mend]:
    if "hold_colour" in layer.settings:
        yield by_setting("Hold colour", "Switches on ‘hold colour’: tone changes, colour does not.", layer.id,
                         "settings.hold_colour", True)  # fmt: skip
    elif layer.blend == "normal":
        yield by_setting(
            "Work on tone alone", "Blends it in luminosity: colour stays.", layer.id, "blend", "luminosity"
        )


CHECK = ColourShift()
