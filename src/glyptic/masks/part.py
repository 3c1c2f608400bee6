"""What a kind of mask part declares."""

from __future__ import annotations

from abc import ABC
from dataclasses import replace
from math import floor
from typing import Any, ClassVar

import numpy as np

from glyptic.base.rectangles import Rect, level_size
from glyptic.params import Choice, Schema, Shift, Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.seen import Seen
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import Space

OF = Choice(
    label="Of", options=("below", "base"), titles=("what is below", "the base picture"), default="below",
    help="Which picture is looked at.",
)  # fmt: skip


class PartKind(ABC):
    """A kind of mask part. An instance in the module's namespace registers it; `hand` is what draws it."""

    name: ClassVar[str]
    title: ClassVar[str]
    summary: ClassVar[str]
    schema: ClassVar[Schema] = Schema()
    carries: ClassVar[str] = ""
    starting: ClassVar[dict[str, Any]] = {}
    """Plain settings of a part that is added, where the defaults do not do."""


class Drawn(PartKind):
    """A part whose coverage follows from the place alone."""

    def coverage(self, settings: Values, patch: Patch) -> Plane:
        """p in 0..1 for each pixel of the patch."""
        raise NotImplementedError

    def known(self, settings: Values, patch: Patch) -> float | None:
        """The one value that p has all over a patch, where that follows from a few numbers; None where it may not."""
        return None


def at_corners(kind: Drawn, settings: Values, patch: Patch) -> list[float]:
    """p at the four corners of a patch and a pixel beyond them."""
    rect = patch.rect.grown(1)
    places = [(x, y) for x in (rect.x, rect.right - 1) for y in (rect.y, rect.bottom - 1)]
    return [float(kind.coverage(settings, replace(patch, rect=Rect(x, y, 1, 1)))[0, 0]) for x, y in places]


def misses(patch: Patch, left: float, top: float, right: float, bottom: float) -> bool:
    """Whether an area in full-size pixels lies beside a patch and a pixel around it."""
    rect, step = patch.rect.grown(1), patch.step
    across = right < rect.x * step or left > rect.right * step
    return across or bottom < rect.y * step or top > rect.bottom * step


class Looked(PartKind):
    """A part whose coverage follows from the pixels below the layer, or from the base (setting `of`)."""

    def picked(self, settings: Values, seen: Seen, more: bool) -> dict[str, Any]:
        """The plain settings to change so that the part covers what was pressed on in the picture. more: besides what
        it covers already."""
        raise NotImplementedError

    def coverage_of(self, settings: Values, px: Planes, space: Space) -> Plane:
        """p in 0..1 for each pixel of (3, h, w) encoded values."""
        raise NotImplementedError


LOOKED_EVERY = 16
"""Rows from one that is looked at first to the next: what is not empty is told by few."""
SHIFT = Shift(label="Shifted", default=(0.0, 0.0), help="How far the picture was shifted, in pixels.")


class Pictured(PartKind):
    """A part whose coverage is a grey picture of the base's size (setting `source`), shifted (setting `shift`); what is
    beyond its border is not covered."""

    def known_from(self, settings: Values, picture: Picture, patch: Patch) -> float | None:
        """0 where the picture's codes are, all over a patch; None anywhere else."""
        dx, dy = settings["shift"]
        if dx != 0 or dy != 0:
            return None
        codes = picture.colour.behind(patch.rect, patch.level)[0]
        return None if codes[::LOOKED_EVERY].any() or codes.any() else 0.0

    def coverage_from(self, settings: Values, picture: Picture, patch: Patch) -> Plane:
        """p in 0..1; a shift of whole pixels of the level moves whole pixels, others go between them (linear)."""
        dx, dy = settings["shift"]
        if dx == dy == 0:
            return np.asarray(picture.colour.read(patch.rect, patch.level)[0])
        left, top = patch.rect.x - dx / patch.step, patch.rect.y - dy / patch.step
        x, y = floor(left), floor(top)
        there = _bordered(picture, Rect(x, y, patch.rect.w + 1, patch.rect.h + 1), patch.level)
        u, v = np.float32(left - x), np.float32(top - y)
        rows = there[:-1] + v * (there[1:] - there[:-1])
        return np.asarray(rows[:, :-1] + u * (rows[:, 1:] - rows[:, :-1]))


def _bordered(picture: Picture, rect: Rect, level: float) -> Plane:
    """A rectangle of a level that may reach beyond the picture, where there is nothing."""
    out = np.zeros((rect.h, rect.w), np.float32)
    inside = rect.meet(Rect(0, 0, *level_size(picture.width, picture.height, level)))
    if not inside.empty:
        y, x = inside.y - rect.y, inside.x - rect.x
        out[y : y + inside.h, x : x + inside.w] = picture.colour.read(inside, level)[0]
    return out
