"""Numbers for the desk: histograms, what the chosen layer does, a spot under the pointer, small pictures."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.looking import OWN, Looking
from glyptic.actions.tiles import reader_and_node, reading, rgba, tile_keys
from glyptic.actions.workshop import Workshop
from glyptic.adjust.curves import CURVES
from glyptic.analysis.clipping import newly_clipped
from glyptic.analysis.effect import effect, sentence
from glyptic.analysis.histogram import histograms
from glyptic.analysis.trust import Stretch, stretches
from glyptic.base.digests import digest
from glyptic.base.homography import area_of
from glyptic.base.rectangles import TILE, Canvas, Rect
from glyptic.document.framing import Crop
from glyptic.document.values import FRAME, Frame, Layer, Stack
from glyptic.engine.moving import ONE_HAND, Moving
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan, make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.render import render
from glyptic.engine.shown import carry, shown_in
from glyptic.engine.states import Ascent, colour
from glyptic.formats.jpeg import encode_small
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.counts import Counts
from glyptic.pixels.seen import Seen
from glyptic.pixels.spaces import SRGB, tone

SHELF_QUALITY = 88
AROUND = 1
"""How many pixels around a spot count for what is picked there."""
MEASURED_SIDE = 768
"""Measures are taken at the first level whose longer side is at most this many pixels."""


Histograms = dict[str, Counts]


@dataclass(frozen=True)
class Measures:
    """Histograms by channel: of the finished picture, of the base, of what reaches the chosen layer through its mask
    and of what it makes of that; the layer's sentence; the share its mask shows (None without a mask)."""

    finished: Histograms
    base: Histograms
    below: Histograms
    above: Histograms
    sentence: str
    shown: float | None


def _small_reader(workshop: Workshop, plan: Plan) -> Reader:
    return plan.reader(workshop.tiles, plan.outer.level_within(MEASURED_SIDE))


def _mask_of(reader: Reader, plan: Plan, layer: str) -> Plane | None:
    mask = plan.masks.get(layer)
    return None if mask is None else reader.read(plan.seen(layer, mask, 1.0), reader.bounds)[0]


def _below(plan: Plan, layer: str) -> Node:
    """What is below a layer, as it comes out."""
    return plan.seen(layer, plan.below.get(layer, plan.base))


def reaching(workshop: Workshop, stack: Stack, layer: str) -> Histograms:
    """Histograms of what reaches a layer through its mask, remembered for as long as neither changes."""
    plan = workshop.plan(stack, layer)
    reader, below, mask = _small_reader(workshop, plan), _below(plan, layer), plan.masks.get(layer)
    nodes = [below] if mask is None else [below, plan.seen(layer, mask, 1.0)]
    key = digest(*(reader.key(node, x, y) for node in nodes for x, y in reader.bounds.tiles()))
    return workshop.counts.get_or(
        key, lambda: histograms(colour(reader, below, reader.bounds), plan.space, _mask_of(reader, plan, layer))
    )


def measure(workshop: Workshop, stack: Stack, layer: str) -> Measures:
    """Measure a stack and its chosen layer at a small level."""
    workshop.turns.give_way()
    plan = workshop.plan(stack, layer)
    reader = _small_reader(workshop, plan)
    bounds, mask = reader.bounds, _mask_of(reader, plan, layer)
    base = reader.read(plan.before, bounds)
    above = colour(reader, plan.seen(layer, plan.above.get(layer, plan.base)), bounds)
    words = "The picture as it was opened. It is never changed."
    if layer == FRAME and stack.frame is not None:
        words = frame_says(stack.frame, plan.inner)
    elif layer != stack.base.id:
        words = sentence(effect(colour(reader, _below(plan, layer), bounds), above, plan.space))
    return Measures(
        histograms(reader.read(plan.finished, bounds), plan.space), histograms(base, plan.space),
        reaching(workshop, stack, layer), histograms(above, plan.space, mask), words,
        None if mask is None else float(mask.mean()),
    )  # fmt: skip


def frame_says(frame: Frame, canvas: Canvas) -> str:
    """What a frame does, in numbers."""
    crop, (width, height) = Crop(frame.corners, frame.size), frame.sheet
    share = area_of(frame.corners) / (canvas.width * canvas.height)
    turned = f", turned by {crop.turn:.2f}°" if abs(crop.turn) >= 0.005 else ""
    border = f" With its border the sheet is {width} × {height} px." if frame.border != (0, 0, 0, 0) else ""
    beyond = "" if crop.is_inside(*canvas) else " It reaches beyond the picture."
    return f"Shows {share * 100:.0f} % of the picture{turned}.{border}{beyond}"


def clips(workshop: Workshop, stack: Stack) -> dict[str, float]:
    """The share of the picture that each layer newly clips, by its id, at a small level."""
    plan = workshop.plan(stack)
    outer, go_on = _small_reader(workshop, plan), workshop.turns.give_way
    if plan.frame is None or plan.framed is None:
        return _clipped_by(plan, outer, stack.layers[1:], plan.base, None, go_on)
    inner = plan.framed.inside(outer)
    by_picture = _clipped_by(plan, inner, stack.layers[1:], plan.base, plan.frame.holds(inner.level), go_on)
    return by_picture | _clipped_by(plan, outer, stack.sheet_layers, plan.framed, None, go_on)


def _clipped_by(
    plan: Plan,
    reader: Reader,
    layers: tuple[Layer, ...],
    start: Node,
    shown: NDArray[np.bool_] | None,
    go_on: Callable[[], object],
) -> dict[str, float]:
    """The share that each layer of a row newly clips, of the pixels (h, w) that are shown; of all for None. go_on:
    waits for whoever comes first, before each layer."""
    found = {}
    for layer, below, above in Ascent(plan, reader, reader.bounds).states(layers, start):
        go_on()
        changes = above is not below
        found[layer.id] = newly_clipped(*(px if shown is None else px[:, shown] for px in (below, above))) * changes
    return found


def curve_faults(workshop: Workshop, stack: Stack, layer: str) -> dict[str, list[Stretch]]:
    """The stretches of each curve of a curves layer that cannot be trusted; empty for any other kind."""
    found = stack.find(layer)
    if found is None or found.kind != "curves":
        return {}
    counts = reaching(workshop, stack, layer)
    return {name: stretches(points, counts[name]) for name, points in found.settings["points"].items()}


@dataclass(frozen=True)
class Spot:
    """A spot of the picture before and after: tone 0..1 and 8-bit codes in the plate's space; swatch: after, in sRGB.
    below: red, green, blue and tone of what reaches the chosen layer there, the mean of pixels next to each other."""

    tone_before: float
    tone_after: float
    before: tuple[int, ...]
    after: tuple[int, ...]
    swatch: tuple[int, ...]
    below: tuple[float, ...]
    meets: dict[str, float]
    """Where on each curve of a curves layer it lies."""


def spot(workshop: Workshop, stack: Stack, layer: str, level: float, x: float, y: float) -> Spot | None:
    """The numbers at a place of the picture, as the level shows it; None outside the picture."""
    reader, finished = _finished(workshop, stack, layer, level)
    plan = workshop.plan(stack, layer)
    place = Rect(int(x // reader.step), int(y // reader.step), 1, 1).meet(reader.bounds)
    if place.empty or x < 0 or y < 0:
        return None
    before, after = reader.read(plan.before, place), reader.read(finished, place)
    below = colour(reader, _below(plan, layer), place.grown(AROUND).meet(reader.bounds))
    below = below.mean((1, 2), keepdims=True)
    red, green, blue = (float(v) for v in below[:, 0, 0])
    values = Seen(red, green, blue, float(tone(below, plan.space)[0, 0]), plan.space)
    chosen = stack.find(layer)
    meets = CURVES.meets(chosen.settings, values) if chosen is not None and chosen.kind == CURVES.name else {}
    tone_before, tone_after = (float(tone(px, plan.space)[0, 0]) for px in (before, after))
    swatch = _codes(carry(after, plan.space, SRGB))
    return Spot(tone_before, tone_after, _codes(before), _codes(after), swatch, values[:4], meets)


def then(
    workshop: Workshop, stack: Stack, painted: Stack, layer: str, level: float, x: float, y: float
) -> tuple[tuple[int, ...], float]:
    """The finished picture's sRGB codes and its tone 0..1 at a place inside it, of a stack of which a layer would be
    painted on; nearly so where layers further up look around themselves, as in a frame that moves."""
    plan = make_plan(painted, workshop.pictures_of(painted), workshop.chains, workshop.plan(stack, layer))
    plan.work_on(layer)
    reader, finished = reading(workshop, plan, _whole_look(layer, level))
    place = Rect(int(x // reader.step), int(y // reader.step), 1, 1)
    px = Moving(plan, reader, layer, ONE_HAND).planes(finished, place)
    return _codes(carry(px, finished.space, SRGB)), float(tone(np.clip(px, 0, 1), finished.space)[0, 0])


def _finished(workshop: Workshop, stack: Stack, layer: str, level: float) -> tuple[Reader, Node]:
    """A reader of a level, and the finished picture in the plate's own space."""
    return reader_and_node(workshop, stack, _whole_look(layer, level))


def _whole_look(layer: str, level: float) -> Looking:
    """The finished picture in the plate's own space."""
    return Looking("finished", layer, level, Rect(0, 0, 1, 1), screen=OWN)


def _codes(px: Planes) -> tuple[int, ...]:
    return tuple(int(v) for v in rgba(px)[0, 0, :3])


def shelf_picture(workshop: Workshop, root: bytes) -> bytes:
    """The finished picture of a state as a JPEG for its card on the shelf."""
    plan = workshop.plan(workshop.stack(root))
    level = plan.outer.level_within(MEASURED_SIDE)
    return encode_small(render(plan, workshop.tiles, level, node=shown_in(plan.finished, SRGB)).colour, SHELF_QUALITY)


def thumbnail_key(workshop: Workshop, stack: Stack, view: str, layer: str) -> str:
    """The key of a small picture of a view: the tile of the level that fits into one."""
    level = workshop.plan(stack).outer.level_within(TILE)
    [(_, _, key)] = tile_keys(workshop, stack, Looking(view, layer, level, Rect(0, 0, 1, 1), working=False))
    return key
