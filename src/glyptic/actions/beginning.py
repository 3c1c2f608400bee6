"""Where to begin: what a picture without layers has, in numbers, and the layer that answers it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from glyptic.actions.framing import FIND_LEVEL, level_seen
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust.levels import LEVELS
from glyptic.adjust.light import LIGHT
from glyptic.adjust.white_balance import light_of
from glyptic.analysis.casts import cast_in_words
from glyptic.analysis.clipping import blocked, blown
from glyptic.analysis.difference import lab
from glyptic.analysis.histogram import histograms
from glyptic.pixels.compiled import Planes
from glyptic.pixels.spaces import Space
from glyptic.pixels.transfer import encoded, linear

SIDE = 768
UNUSED = 0.03
"""Ends that lie further in than this are told as unused."""
NEAR, LEAST_SHARE, CAST = 9.0, 0.03, 1.2
"""Chroma up to which a colour counts as nearly neutral, the share of the picture that must be, and the cast told."""
CLIPPED = 0.002
OFF_LEVEL = 0.1


@dataclass(frozen=True)
class Offer:
    """What the picture has, and what answers it: title, help of a button; path, body: what the page posts."""

    says: str
    title: str
    help: str
    path: str
    body: dict[str, Any]


def _adding(says: str, title: str, help_text: str, **layer: Any) -> Offer:
    return Offer(says, title, help_text, "edits", {"edit": "add-layer", "arguments": {"layer": layer, "after": None}})


def begin(workshop: Workshop, current: Current) -> list[Offer]:
    """What is told of a picture, in the order a retoucher goes: level, ends, cast, what is clipped."""
    plan = workshop.plan(current.stack)
    reader = plan.reader(workshop.tiles, plan.outer.level_within(SIDE))
    px = reader.read(plan.before, reader.bounds)
    return [*_level(workshop, current), *_ends(px, plan.space), *_cast(px, plan.space), *_clipped(px, plan.inner)]


def _level(workshop: Workshop, current: Current) -> Iterator[Offer]:
    found = level_seen(workshop, current.stack)
    if found is None or abs(found.by) < OFF_LEVEL:
        return
    says = f"Long lines are {abs(found.by):.1f}° off level ({found.lines} agree)."
    yield Offer(
        says,
        "Level it",
        "Adds a frame that is turned by that",
        "frame",
        {"deed": FIND_LEVEL, "arguments": {"inside": True}},
    )


def _ends(px: Planes, space: Space) -> Iterator[Offer]:
    settings = LEVELS.auto(LEVELS.schema.defaults, "tone", histograms(px, space))
    black, white = settings["rgb"]["black"], settings["rgb"]["white"]
    if black < UNUSED and white > 1 - UNUSED:
        return
    says = f"The histogram begins at {black * 100:.0f} % and ends at {white * 100:.0f} %: the ends are not used."
    yield _adding(
        says,
        "Pull the ends in",
        "Adds levels with both ends set there",
        kind="levels",
        name="Ends set",
        settings=settings,
    )


def _cast(px: Planes, space: Space) -> Iterator[Offer]:
    light, a, b = lab(px, space)
    near = (np.hypot(a, b) < NEAR) & (light > 20) & (light < 95)
    if near.mean() < LEAST_SHARE:
        return
    lean = float(a[near].mean()), float(b[near].mean())
    if np.hypot(*lean) < CAST:
        return
    red, green, blue = (float(v) for v in encoded(linear(px[:, near]).mean(1)))
    temperature, tint = light_of(red, green, blue, space)
    says = f"What is nearly neutral ({near.mean() * 100:.0f} % of the picture) leans {cast_in_words(*lean)}."
    yield _adding(says, "Balance it", f"Adds a white balance of {temperature:.0f} K", kind="white-balance",
                  name="White balance", settings={"temperature": temperature, "tint": tint})  # fmt: skip


def _clipped(px: Planes, size: tuple[int, int]) -> Iterator[Offer]:
    radius = LIGHT.starting(*size)
    for marks, what, title, name, amount in (
        (blown(px), "blown", "Hold the lights", "highlights", -0.4),
        (blocked(px), "blocked", "Open the darks", "shadows", 0.3),
    ):
        share = float(marks.any(0).mean())
        if share >= CLIPPED:
            says = f"{share * 100:.1f} % is {what} in a channel: there is no detail to recover there, only around it."
            yield _adding(says, title, f"Adds light with {name} at {amount * 100:+.0f} %", kind="light", name=title,
                          settings={**radius, name: amount})  # fmt: skip
