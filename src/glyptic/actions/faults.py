"""Faults of a layer's mask, found and mended: gaps and spill, and where it does not keep to the picture's edges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.areas import grey_part, mask_codes, masked, parts_only
from glyptic.actions.edit import apply_edit, check_revision
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography
from glyptic.document.edits.across import on_sheet
from glyptic.document.values import Layer, Mask, Stack
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.pixels.spaces import tone

if TYPE_CHECKING:
    from glyptic.analysis.gaps import Place, Specks

LARGEST = 2000
"""The widest gap in pixels that is looked for."""
MOST_TOLD = 200
Spot = tuple[float, float]
HALO_PIXELS = 2_500_000
"""Halos are looked for at the first level that has no more pixels than this."""
OPS = {"gap": ("show", "Gaps closed"), "spill": ("hide", "Spill dropped")}


def _whole(workshop: Workshop, stack: Stack, layer: Layer, across: float) -> dict[str, Specks]:
    """Gaps and spill of what a layer's mask shows in the end."""
    from glyptic.analysis.gaps import specks  # noqa: PLC0415  (OpenCV is only loaded by those who look for faults)

    if not 1 <= across <= LARGEST:
        raise DocumentError([Fault("across", f"must be in 1..{LARGEST} pixels, not {across:g}")])
    codes = mask_codes(workshop, parts_only(stack, layer), layer)
    return {kind: specks(codes, kind, across) for kind in OPS}


def gaps(workshop: Workshop, plate_id: int, layer_id: str, across: float) -> list[Place]:
    """Gaps and spill of a mask up to a width in pixels; places in full-size pixels, gaps first, the largest first."""
    stack = workshop.current(plate_id).stack
    found = _whole(workshop, stack, masked(stack, layer_id), across)
    seen = _in_sight(stack, layer_id)
    return [place for specks in found.values() for place in [one for one in specks.places if seen(one)][:MOST_TOLD]]


def _in_sight(stack: Stack, layer_id: str) -> Callable[[Place], bool]:
    """Whether the frame shows a place of what a layer lies on."""
    frame = stack.frame
    if frame is None or not frame.enabled or on_sheet(stack, layer_id):
        return lambda place: True
    back, (width, height) = Homography.onto(frame.corners, *frame.size).inverse.facing(*frame.corners[0]), frame.size

    def seen(place: Place) -> bool:
        x, y = back.at(place.at[0] + 0.5, place.at[1] + 0.5)
        return 0 <= x <= width and 0 <= y <= height

    return seen


def mend(
    workshop: Workshop,
    plate_id: int,
    revision: int,
    layer_id: str,
    across: float,
    kind: str,
    at: tuple[float, float] | None,
) -> Current:
    """Close gaps or drop spill: all of them, or the one that a pixel belongs to, by a part that can be removed
    again."""
    current = workshop.current(plate_id)
    check_revision(current, revision)
    layer = masked(current.stack, layer_id)
    if kind not in OPS:
        raise DocumentError([Fault("kind", f"must be one of {', '.join(OPS)}")])
    found = _whole(workshop, current.stack, layer, across)[kind]
    chosen = [i for i, number in enumerate(found.numbers) if at is None or number == found.number_at(*at)]
    if not chosen:
        raise DocumentError([Fault("mask", "has no such place any more; look for them again")])
    op, name = OPS[kind]
    part = grey_part(workshop, found.covered(chosen), op, name)
    return apply_edit(workshop, plate_id, revision, "put-part", {"layer": layer_id, "part": None, "value": part})


def halos(workshop: Workshop, plate_id: int, layer_id: str) -> list[Place]:
    """Where a layer's mask bleeds over a strong edge of the picture or falls short of it, the worst first; places in
    full-size pixels."""
    from glyptic.analysis.gaps import halos as looked_for  # noqa: PLC0415

    stack = workshop.current(plate_id).stack
    layer = masked(stack, layer_id)
    open_stack = stack.replaced(replace(layer, mask=replace(layer.mask or Mask(), enabled=False)))
    plan, shown = workshop.plan(stack), workshop.plan(open_stack)
    level = 0
    while np.prod(plan.canvas_of(layer.id).at(level)[2:]) > HALO_PIXELS:
        level += 1
    below = _tones(plan.reader_of(layer.id, workshop.tiles, level), plan.below[layer.id])
    above = _tones(shown.reader_of(layer.id, workshop.tiles, level), shown.above[layer.id])
    codes = mask_codes(workshop, stack, layer, level).astype(np.float32) / np.float32(255)
    found = looked_for(below, codes, above - below)
    seen = _in_sight(stack, layer_id)
    return [place for one in found if seen(place := one.scaled(1 << level))][:MOST_TOLD]


def _tones(reader: Reader, node: Node) -> NDArray[np.float32]:
    """Tone (h, w) of a whole node."""
    out = np.empty((reader.bounds.h, reader.bounds.w), np.float32)
    for place in reader.bounds.tiles():
        rect = reader.tile_rect(*place)
        out[rect.y : rect.bottom, rect.x : rect.right] = tone(reader.read(node, rect), node.space)
    return out
