"""Laying pictures over a plate: fitted inside, covering, stretched, one to one, mirrored, each corner free."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from glyptic.actions.edit import apply_edit, check_revision
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Canvas
from glyptic.document.edits.across import on_sheet
from glyptic.document.edits.edit import unlocked
from glyptic.document.placing import corners_of
from glyptic.document.values import FRAME, Place, Stack

Plain = dict[str, Any]


def canvas_of(workshop: Workshop, stack: Stack, layer: str | None) -> Canvas:
    """What a layer lies on, or would if it were put after that one: the base picture, or the sheet."""
    frame = stack.frame
    if frame is not None and layer is not None and (layer == FRAME or on_sheet(stack, layer)):
        return Canvas(*frame.sheet)
    return workshop.base_of(stack).canvas


def _scaled(scale: float, over: Canvas) -> Plain:
    return {"x": over.width / 2, "y": over.height / 2, "scale": scale, "rotation": 0}


def fitted(size: Canvas, over: Canvas) -> Plain:
    """As large as fits inside."""
    return _scaled(min(over.width / size.width, over.height / size.height), over)


def _covering(size: Canvas, over: Canvas, place: Place) -> Plain:
    return _scaled(max(over.width / size.width, over.height / size.height), over)


def _stretched(size: Canvas, over: Canvas, place: Place) -> Plain:
    return {"corners": [[0, 0], [over.width, 0], [over.width, over.height], [0, over.height]]}


def _one_to_one(size: Canvas, over: Canvas, place: Place) -> Plain:
    a, b, c, d = corners_of(place, *size)
    return {"x": (a[0] + b[0] + c[0] + d[0]) / 4, "y": (a[1] + b[1] + c[1] + d[1]) / 4, "scale": 1, "rotation": 0}


def _mirrored(size: Canvas, over: Canvas, place: Place) -> Plain:
    a, b, c, d = corners_of(place, *size)
    return {"corners": [b, a, d, c]}


def _free(size: Canvas, over: Canvas, place: Place) -> Plain:
    return {"corners": list(corners_of(place, *size))}


LAYINGS: dict[str, Callable[[Canvas, Canvas, Place], Plain]] = {
    "fit": lambda size, over, place: fitted(size, over),
    "cover": _covering, "stretch": _stretched, "one-to-one": _one_to_one, "mirror": _mirrored, "corners": _free,
}  # fmt: skip
"""Ways to lay a picture by name: the size of the picture, what it lies on, where it lies; gives its plain place."""


def start_of(size: Canvas, over: Canvas) -> Plain:
    """Where a new picture lies: in the middle, pixel on pixel; one that is larger is fitted inside."""
    if size.width > over.width or size.height > over.height:
        return fitted(size, over)
    return {"x": over.width / 2, "y": over.height / 2}


def lay_picture(
    workshop: Workshop, plate_id: int, revision: int, layer_id: str, way: str, token: str | None = None
) -> Current:
    """Lay a picture layer in one of the ways of LAYINGS, as one step."""
    current = workshop.current(plate_id)
    check_revision(current, revision)
    layer = unlocked(current.stack, layer_id)
    if way not in LAYINGS or not layer.source or layer.id == current.stack.base.id:
        raise DocumentError([Fault("way", f"must be one of {', '.join(LAYINGS)}, on a picture layer")])
    size, over = (
        workshop.pictures_of(current.stack)(*layer.picture).canvas,
        canvas_of(workshop, current.stack, layer_id),
    )
    place = layer.place or Place(over.width / 2, over.height / 2)
    arguments = {"layer": layer_id, "field": "place", "value": LAYINGS[way](size, over, place)}
    return apply_edit(workshop, plate_id, revision, "set", arguments, token)
