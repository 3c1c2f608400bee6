"""What a kind of mask part declares."""

from __future__ import annotations

from abc import ABC
from typing import Any, ClassVar

import numpy as np

from glyptic.params import Choice, Schema, Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.shapes import Frame

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


class Drawn(PartKind):
    """A part whose coverage follows from the place alone."""

    def coverage(self, settings: Values, frame: Frame) -> Plane:
        """p in 0..1 for each pixel of the frame."""
        raise NotImplementedError


class Looked(PartKind):
    """A part whose coverage follows from the pixels below the layer, or from the base (setting `of`)."""

    def picked(self, settings: Values, seen: tuple[float, float, float, float]) -> dict[str, Any]:
        """The plain settings to change so that the part covers what was pressed on in the picture: seen is red, green,
        blue and tone there."""
        raise NotImplementedError

    def coverage_of(self, settings: Values, px: Planes) -> Plane:
        """p in 0..1 for each pixel of (3, h, w) encoded values."""
        raise NotImplementedError


class Pictured(PartKind):
    """A part whose coverage is a grey picture of the base's size (setting `source`)."""

    def coverage_from(self, picture: Picture, frame: Frame) -> Plane:
        return np.asarray(picture.colour.read(frame.rect, frame.level)[0])
