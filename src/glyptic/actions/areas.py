"""Areas found by the picture's edges, made parts of a mask: regions, the backdrop, a mask's border snapped to edges."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.edit import apply_edit, check_revision
from glyptic.actions.open_picture import keep_asset, keep_grey, plate_name
from glyptic.actions.placing import canvas_of
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.digests import digest
from glyptic.base.errors import DocumentError, Fault, PictureError
from glyptic.base.rectangles import TILE
from glyptic.document.edits.edit import unlocked
from glyptic.document.values import Layer, Mask, Stack
from glyptic.document.writing import plain_part
from glyptic.engine.cache import TileCache
from glyptic.engine.pool import crew
from glyptic.engine.render import Rendering, cache_for
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.masks.region import REGION
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.pixels.quantise import to_codes

MOST_SNAPPED = 400
"""The widest band, in pixels, in which a border is looked for."""
GreyCodes = NDArray[np.uint8]


def mask_codes(workshop: Workshop, stack: Stack, layer: Layer, level: int = 0) -> GreyCodes:
    """Codes 0..255 (h, w) of the whole of a layer's mask at a level."""
    plan = workshop.plan(stack)
    bounds = plan.canvas_of(layer.id).at(level)
    mask = plan.masks.get(layer.id)
    if mask is None:
        return np.full((bounds.h, bounds.w), 255, np.uint8)
    reader = plan.reader_of(layer.id, workshop.tiles, level)
    out = np.empty((bounds.h, bounds.w), np.uint8)

    def read(place: tuple[int, int]) -> None:
        rect = reader.tile_rect(*place)
        out[rect.y : rect.bottom, rect.x : rect.right] = to_codes(reader.read(mask, rect), 8)[:, :, 0]

    with crew() as hands:
        hands.all(partial(read, place) for place in bounds.tiles())
    return out


def picture_under(workshop: Workshop, stack: Stack, layer: str) -> Picture:
    """The base as a layer has it: the base picture, or for a layer over the sheet the framed base."""
    plan = workshop.plan(stack)
    if layer not in plan.on_sheet:
        return plan.picture

    def made() -> Picture:
        colour = Rendering(plan, cache_for(plan), depth=16, node=plan.before).whole().colour
        codes = Pyramid(np.ascontiguousarray(np.moveaxis(colour, 2, 0)))
        return Picture(codes, key, space=plan.space)

    reader = plan.reader(TileCache(), plan.outer.level_within(TILE))
    key = digest(*(reader.key(plan.before, x, y) for x, y in reader.bounds.tiles()))
    return workshop.pictures.get_or(f"sheet {key.hex()}", made)


def _settings(layer: Layer, part: int | None, asked: dict[str, Any]) -> dict[str, Any]:
    """The plain settings of a region: those of the part it is, if it is one, with what is asked for changed."""
    old: dict[str, Any] = {}
    if part is not None:
        parts = layer.mask.parts if layer.mask is not None else ()
        if part >= len(parts) or parts[part].kind != REGION.name:
            raise DocumentError([Fault("part", "is no region any more")])
        old = {name: value for name, value in plain_part(parts[part], VOCABULARY).items() if name != "kind"}
    return {**old, **asked}


def find_region(
    workshop: Workshop, plate_id: int, revision: int, layer_id: str, part: int | None, asked: dict[str, Any]
) -> Current:
    """Find an area by scribbles, or the likely backdrop, and make it a part of the layer's mask, as one step.

    part: the region to be found anew, or None for a new one. asked: plain settings of a region to change (`seeds`,
    `edge`, `begin`, and `op`). Raises DocumentError where there is nothing to begin with.
    """
    from glyptic.analysis import regions  # noqa: PLC0415  (OpenCV is only loaded by those who look for areas)

    current = workshop.current(plate_id)
    check_revision(current, revision)
    layer = unlocked(current.stack, layer_id)
    plain = _settings(layer, part, asked)
    faults: list[Fault] = []
    wanted: dict[str, Any] = {name: plain[name] for name in ("seeds", "edge", "begin") if name in plain}
    values = REGION.schema.parse(dict(wanted, source="none"), "", faults)
    if values is None:
        raise DocumentError(faults)
    from_backdrop = values["begin"] == "backdrop"
    if not from_backdrop and not any(seed["belongs"] for seed in values["seeds"]):
        raise DocumentError([Fault("seeds", "must hold a scribble on what belongs to the area")])
    picture = picture_under(workshop, current.stack, layer_id)
    scribbles = [regions.Scribble(seed["points"], seed["size"], seed["belongs"]) for seed in values["seeds"]]
    start = regions.backdrop(picture) if from_backdrop else None
    area = start if start is not None and not scribbles else regions.grown(picture, scribbles, values["edge"], start)
    found = regions.at_full_size(picture, area, regions.coarse_level(picture.width, picture.height))
    source = keep_grey(workshop, found, "region.png")
    value = {"kind": REGION.name, **plain, "source": source}
    return apply_edit(workshop, plate_id, revision, "put-part", {"layer": layer_id, "part": part, "value": value})


def add_picture_part(
    workshop: Workshop, plate_id: int, revision: int, layer_id: str, data: bytes, file_name: str, op: str
) -> Current:
    """Make a grey picture file of the base's size a part of a layer's mask, as one step; raises PictureError for a file
    that is no such picture."""
    current = workshop.current(plate_id)
    check_revision(current, revision)
    unlocked(current.stack, layer_id)
    base = canvas_of(workshop, current.stack, layer_id)
    asset = keep_asset(workshop, data, file_name)
    picture = workshop.picture(asset)
    if picture.canvas != base:
        raise PictureError(
            f"{file_name[:60]} measures {picture.width} × {picture.height} pixels; as a part of a mask it must measure "
            f"{base.width} × {base.height}, as what the layer lies on does. Nothing was changed."
        )
    if not picture.is_grey:
        raise PictureError(
            f"{file_name[:60]} is a colour picture; as a part of a mask it must be grey. Nothing was changed; "
            "save it as grey."
        )
    part = {"kind": "raster", "op": op, "name": plate_name(file_name)[:60], "source": asset}
    return apply_edit(workshop, plate_id, revision, "put-part", {"layer": layer_id, "part": None, "value": part})


def snap_mask(workshop: Workshop, plate_id: int, revision: int, layer_id: str, width: float) -> Current:
    """Move the border of a layer's mask to the picture's edges within `width` pixels: a part that takes the place of
    those before it and can be removed again."""
    from glyptic.analysis import regions  # noqa: PLC0415

    current = workshop.current(plate_id)
    check_revision(current, revision)
    layer = masked(current.stack, layer_id)
    if not 1 <= width <= MOST_SNAPPED:
        raise DocumentError([Fault("width", f"must be in 1..{MOST_SNAPPED} pixels, not {width:g}")])
    picture = picture_under(workshop, current.stack, layer_id)
    codes = mask_codes(workshop, parts_only(current.stack, layer), layer)
    found = regions.snapped(picture, codes, width)
    if np.array_equal(found, codes):
        raise DocumentError([Fault("mask", "has no border that could be snapped")])
    part = grey_part(workshop, found, "replace", f"Snapped within {width:g} px")
    return apply_edit(workshop, plate_id, revision, "put-part", {"layer": layer_id, "part": None, "value": part})


def masked(stack: Stack, layer_id: str) -> Layer:
    """A layer that may be changed and has a mask in use; raises DocumentError for any other."""
    layer = unlocked(stack, layer_id)
    if layer.mask is None or not layer.mask.enabled:
        raise DocumentError([Fault("mask", f"of ‘{layer.name}’ is not there or not in use")])
    return layer


def parts_only(stack: Stack, layer: Layer) -> Stack:
    """The stack with a layer's mask as its parts alone make it: what a part added at their end begins with."""
    mask = layer.mask or Mask()
    return stack.replaced(replace(layer, mask=Mask(start=mask.start, linked=mask.linked, parts=mask.parts)))


def grey_part(workshop: Workshop, codes: GreyCodes, op: str, name: str) -> dict[str, Any]:
    """The plain data of a part that is a grey picture found by Glyptic."""
    return {"kind": "raster", "op": op, "name": name, "source": keep_grey(workshop, codes, "found.png")}
