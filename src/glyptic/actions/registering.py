"""Laying a second rendition of a scene exactly over the first."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.edit import check_revision, edited, keep
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.homography import Homography, is_convex
from glyptic.base.rectangles import Canvas
from glyptic.document.edits.edit import quoted, unlocked
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.engine.steps import Base
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import tone

MATCHED_SIDE, REFINED_SIDE = 1100, 3200
"""Pictures are matched, and then refined, at the first level whose longer side is at most so many pixels."""
MOST_ERROR = 3.0
"""Pixels of the level beyond which two pictures do not match."""


def _grey(reader: Reader, node: Node) -> NDArray[np.uint8]:
    """Tone codes (h, w) of a node, stretched over what there is."""
    light = tone(reader.read(node, reader.bounds), node.space)
    low, high = np.percentile(light, (1, 99))
    stretched = np.clip((light - low) / max(high - low, 1e-3), 0, 1).astype(np.float32)
    return np.ascontiguousarray(to_codes(stretched[None], 8)[:, :, 0])


def lay_over(workshop: Workshop, plate_id: int, revision: int, layer_id: str, token: str | None = None) -> Current:
    """Lay a picture layer exactly over what is below it, by its corners, as one step that says how exactly; raises
    DocumentError where the two do not match."""
    from glyptic.analysis.registration import refined, register  # noqa: PLC0415  (OpenCV is only loaded by those who match)

    current = workshop.current(plate_id)
    check_revision(current, revision)
    layer = unlocked(current.stack, layer_id)
    if not layer.source or layer.id == current.stack.base.id:
        raise DocumentError([Fault(layer.name, "is no picture that could be laid over another")])
    plan, picture = workshop.plan(current.stack), workshop.pictures_of(current.stack)(*layer.picture)
    over = plan.canvas_of(layer_id)

    def seen(side: int) -> tuple[Reader, Reader, NDArray[np.uint8], NDArray[np.uint8]]:
        workshop.stops.check()
        mine = Reader(workshop.tiles, picture.canvas, picture.canvas.level_within(side))
        below = plan.reader_of(layer_id, workshop.tiles, over.level_within(side))
        return mine, below, _grey(mine, Base(picture, plan.space)), _grey(below, plan.below[layer_id])

    mine, below, small, small_below = seen(MATCHED_SIDE)
    start = register(small, small_below)
    if start is None:
        raise _no_match(layer.name)
    fine, fine_below, large, large_below = seen(REFINED_SIDE)
    found = refined(large, large_below, _at_levels(start, mine.step / fine.step, below.step / fine_below.step))
    if found.error > MOST_ERROR:
        raise _no_match(layer.name)
    a, b, c, d = (_carried(corner, found.matrix, fine.step, fine_below.step) for corner in _corners(picture.canvas))
    if not is_convex((a, b, c, d)):
        raise _no_match(layer.name)
    made = edited(current.stack, "set", {"layer": layer_id, "field": "place", "value": {"corners": [a, b, c, d]}})
    error = found.error * fine_below.step
    sentence = f"{quoted(layer)} laid exactly over what is below: within {error:.1f} px, at {found.places} places"
    with workshop.lock(plate_id):
        check_revision(workshop.current(plate_id), revision)
        return keep(workshop, current, replace(made, sentence=sentence), token)


def _no_match(name: str) -> DocumentError:
    words = "does not match what is below it: too little of the two is the same. Nothing was changed; lay it by hand"
    return DocumentError([Fault(name, words)])


def _corners(size: Canvas) -> list[tuple[float, float]]:
    return [(0, 0), (size.width, 0), (size.width, size.height), (0, size.height)]


def _at_levels(matrix: NDArray[np.float64], finer: float, finer_below: float) -> NDArray[np.float64]:
    """A matrix between pixels of finer levels, so many times as fine, each counted from the first one's middle."""

    def onto(times: float) -> NDArray[np.float64]:
        return np.array([[times, 0, (times - 1) / 2], [0, times, (times - 1) / 2], [0, 0, 1]])

    return np.asarray(onto(finer_below) @ matrix @ np.linalg.inv(onto(finer)))


def _carried(
    corner: tuple[float, float], matrix: NDArray[np.float64], mine: float, below: float
) -> tuple[float, float]:
    """A corner carried between full-size pixels, by a matrix that counts pixels of levels from their middle."""
    top, middle, bottom = (tuple(float(v) for v in row) for row in matrix)
    onto = Homography(((top[0], top[1], top[2]), (middle[0], middle[1], middle[2]), (bottom[0], bottom[1], bottom[2])))
    x, y = onto.at(corner[0] / mine - 0.5, corner[1] / mine - 0.5)
    return (x + 0.5) * below, (y + 0.5) * below
