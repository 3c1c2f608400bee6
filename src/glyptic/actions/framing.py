"""Deeds on the frame that are worked out: turned, levelled, cut to proportions, straightened, found level."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np

from glyptic.actions.edit import check_revision, edited, keep, kept_already
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Canvas
from glyptic.document.edits.edit import Numbers
from glyptic.document.framing import Crop, straightened
from glyptic.document.values import Stack
from glyptic.params import Corners, Param, Points, Real, Schema, Size, Toggle, Values, Whole
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import tone

if TYPE_CHECKING:
    from glyptic.analysis.levelling import Level

RATIOS = {"1:1": "1:1", "5:4": "5:4", "4:3": "4:3", "3:2": "3:2", "16:9": "16:9"}
"""Proportions that are offered, with their words; any others are typed."""
FIND_LEVEL = "find-level"
"""What the page calls `level_by_lines`."""
FOUND_SIDE = 1600
"""Long lines are looked for at the first level whose longer side is at most so many pixels."""


@dataclass(frozen=True)
class Asked:
    """What a deed works with: the crop as it is, the base picture's size, and what was asked for. inside: whether
    nothing beyond the picture may come in."""

    crop: Crop
    canvas: Canvas
    values: Values

    @property
    def inside(self) -> bool:
        return bool(self.values["inside"])

    def turned(self, by: float) -> Crop:
        crop = self.crop.turned_inside(by, *self.canvas) if self.inside else self.crop.turned(by)
        return replace(crop, corners=_tidy(crop))


def _tidy(crop: Crop) -> Any:
    """The corners of a crop that is not turned, on whole pixels where they are but a rounding away from it."""
    whole = tuple((float(round(x)), float(round(y))) for x, y in crop.corners)
    near = all(
        abs(a - b) < 1e-6
        for one, other in zip(whole, crop.corners, strict=True)
        for a, b in zip(one, other, strict=True)
    )
    return whole if near else crop.corners


INSIDE = Toggle(label="Keep inside the picture", default=True)


@dataclass(frozen=True)
class Deed:
    """A deed by its name: what is asked for, and the crop it makes."""

    asks: dict[str, Param]
    make: Callable[[Asked], Crop]

    @property
    def schema(self) -> Schema:
        return Schema({**self.asks, "inside": INSIDE})


def _turned(asked: Asked) -> Crop:
    return asked.turned(asked.values["by"])


def _quarter(asked: Asked) -> Crop:
    return asked.crop.quarter(int(asked.values["by"]))


def _levelled(asked: Asked) -> Crop:
    one, other = asked.values["line"]
    if np.hypot(other[0] - one[0], other[1] - one[1]) < 2:
        raise DocumentError([Fault("line", "is too short to level by; draw it along what should be level or plumb")])
    return asked.turned(asked.crop.levelled(one, other))


def _straightened(asked: Asked) -> Crop:
    a, b, c, d = asked.values["corners"]
    return straightened((a, b, c, d), (asked.canvas.width / 2, asked.canvas.height / 2))


def _whole(asked: Asked) -> Crop:
    return Crop.whole(*asked.canvas)


def _sized(asked: Asked) -> Crop:
    width, height = asked.values["size"]
    crop = asked.crop.turned(0, width, height)
    if asked.inside and not crop.is_inside(*asked.canvas):
        raise DocumentError(
            [
                Fault(
                    "size",
                    f"of {width} × {height} reaches beyond the picture there; move it, or let go of ‘Keep inside’",
                )
            ]
        )
    return replace(crop, corners=_tidy(crop))


def _ratio(asked: Asked) -> tuple[float, float]:
    across, down = asked.values["ratio"]
    if across <= 0 or down <= 0 or not 0.01 <= across / down <= 100:
        raise DocumentError([Fault("ratio", "must be two numbers above 0, no more than a hundred times apart")])
    return across, down


DEEDS = {
    "turn": Deed({"by": Real(label="Turn", low=-360, high=360, unit="°")}, _turned),
    "level": Deed({"line": Points(label="Line", least=2, most=2)}, _levelled),
    "quarter": Deed({"by": Whole(label="Quarters", low=-4, high=4)}, _quarter),
    "mirror": Deed({}, lambda asked: asked.crop.mirrored()),
    "ratio": Deed({"ratio": Numbers(label="Ratio", count=2)}, lambda asked: asked.crop.in_proportion(*_ratio(asked))),
    "straighten": Deed({"corners": Corners(label="Corners")}, _straightened),
    "size": Deed({"size": Size(label="Size")}, _sized),
    "whole": Deed({}, _whole),
}  # fmt: skip


def crop_of(workshop: Workshop, stack: Stack) -> Crop:
    """The crop of a stack; all of the picture where it has no frame."""
    if stack.frame is None:
        return Crop.whole(*workshop.base_of(stack).canvas)
    return Crop(stack.frame.corners, stack.frame.size)


def do_to_frame(
    workshop: Workshop, plate_id: int, revision: int, name: str, asked: dict[str, Any], token: str | None = None
) -> Current:
    """Do a deed to the frame of a plate, as one step of its log; a plate without a frame gets one.

    asked: plain data of the deed's own (see DEEDS), and `inside`. Raises DocumentError, with what is wrong by field.
    """
    deed = DEEDS.get(name)
    if deed is None:
        raise DocumentError([Fault("deed", f"{name[:40]!r} is nothing that can be done to a frame")])
    faults: list[Fault] = []
    values = deed.schema.parse(asked, "", faults)
    if values is None:
        raise DocumentError(faults)

    def make(current: Current) -> tuple[Crop, str]:
        canvas = workshop.base_of(current.stack).canvas
        return deed.make(Asked(crop_of(workshop, current.stack), canvas, values)), ""

    return _kept(workshop, plate_id, revision, make, token)


def _kept(
    workshop: Workshop, plate_id: int, revision: int, make: Callable[[Current], tuple[Crop, str]], token: str | None
) -> Current:
    with workshop.lock(plate_id):
        current = workshop.current(plate_id)
        if token is not None and kept_already(workshop, plate_id, token):
            return current
        check_revision(current, revision)
        crop, words = make(current)
        made = edited(current.stack, "set-frame", {"frame": {"corners": crop.corners, "size": crop.size}})
        return keep(workshop, current, replace(made, sentence=words or made.sentence), token)


def level_by_lines(workshop: Workshop, plate_id: int, revision: int, inside: bool, token: str | None = None) -> Current:
    """Level the frame by the strongest long lines of what it shows, as one step; raises DocumentError where they do not
    agree, or it is level already."""
    return _kept(workshop, plate_id, revision, partial(_found, workshop, inside), token)


def level_seen(workshop: Workshop, stack: Stack) -> Level | None:
    """By how much what a stack shows is off level, by its long lines; None where too few agree."""
    from glyptic.analysis.levelling import find_level  # noqa: PLC0415  (OpenCV is only loaded by those who look)

    plan = workshop.plan(stack)
    reader = plan.reader(workshop.tiles, plan.outer.level_within(FOUND_SIDE))
    grey = to_codes(tone(reader.read(plan.before, reader.bounds), plan.space)[None], 8)[:, :, 0]
    return find_level(np.ascontiguousarray(grey))


def _found(workshop: Workshop, inside: bool, current: Current) -> tuple[Crop, str]:
    found = level_seen(workshop, current.stack)
    if found is None:
        words = "could not be found: too few long lines agree. Draw a line along what should be level or plumb"
        raise DocumentError([Fault("level", words)])
    sure = f"{found.lines} long lines agree, {found.share * 100:.0f} % of the length of all"
    if abs(found.by) < 0.02:
        raise DocumentError([Fault("level", f"is right already: {sure}")])
    canvas = workshop.base_of(current.stack).canvas
    values = Values({"inside": inside})
    turned = Asked(crop_of(workshop, current.stack), canvas, values).turned(found.by)
    return turned, f"Frame turned by {found.by:.2f}°: {sure}"
