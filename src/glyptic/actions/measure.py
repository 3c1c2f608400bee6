"""Numbers for the desk: histograms, what the chosen layer does, a spot under the pointer, small pictures."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from glyptic.actions.looking import Looking
from glyptic.actions.tiles import reader_and_node, rgba, tile_keys
from glyptic.actions.workshop import Workshop
from glyptic.analysis.effect import effect, sentence
from glyptic.analysis.histogram import histograms
from glyptic.base.rectangles import TILE, Rect, level_size
from glyptic.document.values import Stack
from glyptic.engine.reader import Node, Reader
from glyptic.engine.render import render
from glyptic.formats.jpeg import encode_small
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.srgb import tone
from glyptic.store.assets import deepest_level

SHELF_QUALITY = 88
MEASURED_SIDE = 768
"""Measures are taken at the first level whose longer side is at most this many pixels."""


def level_within(picture: Picture, side: int) -> int:
    """The first level that is at most `side` pixels on its longer side, or the deepest there is."""
    level = 0
    deepest = deepest_level(picture.width, picture.height)
    while level < deepest and max(level_size(picture.width, picture.height, level)) > side:
        level += 1
    return level


@dataclass(frozen=True)
class Measures:
    """Histogram counts by channel: of the finished picture, of the base, and of what is below the chosen layer;
    the layer's sentence; the share its mask shows (None without a mask)."""

    finished: dict[str, list[int]]
    base: dict[str, list[int]]
    below: dict[str, list[int]]
    sentence: str
    shown: float | None


def _counts(reader: Reader, node: Node) -> dict[str, list[int]]:
    px = reader.read(node, reader.bounds)
    return {name: counts.tolist() for name, counts in histograms(px).items()}


def measure(workshop: Workshop, stack: Stack, layer: str) -> Measures:
    """Measure a stack and its chosen layer at a small level."""
    plan = workshop.plan(stack, layer)
    picture = plan.picture
    reader = plan.reader(workshop.tiles, level_within(picture, MEASURED_SIDE))
    below, above = plan.below.get(layer, plan.base), plan.above.get(layer, plan.base)
    words = "The picture as it was opened. It is never changed."
    if layer != stack.base.id:
        words = sentence(effect(reader.read(below, reader.bounds), reader.read(above, reader.bounds)))
    mask = plan.masks.get(layer)
    shown = float(reader.read(mask, reader.bounds).mean()) if mask is not None else None
    return Measures(_counts(reader, plan.finished), _counts(reader, plan.base), _counts(reader, below), words, shown)


@dataclass(frozen=True)
class Spot:
    """A spot of the picture before and after: tone 0..1 and 8-bit codes."""

    tone_before: float
    tone_after: float
    before: tuple[int, ...]
    after: tuple[int, ...]
    below: tuple[float, ...]


def spot(workshop: Workshop, stack: Stack, layer: str, level: int, x: float, y: float) -> Spot | None:
    """The numbers at a place of the picture, as the level shows it; None outside the picture."""
    reader, finished = reader_and_node(workshop, stack, Looking("finished", layer, level, Rect(0, 0, 1, 1)))
    plan = workshop.plan(stack, layer)
    place = Rect(int(x // reader.step), int(y // reader.step), 1, 1).meet(reader.bounds)
    if place.empty or x < 0 or y < 0:
        return None
    before, after = reader.read(plan.base, place), reader.read(finished, place)
    below = reader.read(plan.below.get(layer, plan.base), place)

    def codes(px: np.ndarray) -> tuple[int, ...]:
        return tuple(int(v) for v in rgba(px)[0, 0, :3])

    values = (*(float(v) for v in below[:, 0, 0]), float(tone(below)[0, 0]))
    return Spot(float(tone(before)[0, 0]), float(tone(after)[0, 0]), codes(before), codes(after), values)


def then(workshop: Workshop, stack: Stack, layer: str, level: int, x: float, y: float) -> tuple[int, ...]:
    """The finished 8-bit codes at a place inside the picture, of a stack that is only being considered."""
    reader, finished = reader_and_node(workshop, stack, Looking("finished", layer, level, Rect(0, 0, 1, 1)))
    place = Rect(int(x // reader.step), int(y // reader.step), 1, 1)
    return tuple(int(v) for v in rgba(reader.read(finished, place))[0, 0, :3])


def shelf_picture(workshop: Workshop, root: bytes) -> bytes:
    """The finished picture of a state as a JPEG for its card on the shelf."""
    plan = workshop.plan(workshop.stack(root))
    level = level_within(plan.picture, MEASURED_SIDE)
    return encode_small(render(plan, workshop.tiles, level).colour, SHELF_QUALITY)


def thumbnail_key(workshop: Workshop, stack: Stack, view: str, layer: str) -> str:
    """The key of a small picture of a view: the tile of the level that fits into one."""
    picture = workshop.plan(stack, "").picture
    level = level_within(picture, TILE)
    [(_, _, key)] = tile_keys(workshop, stack, Looking(view, layer, level, Rect(0, 0, 1, 1), working=False))
    return key
