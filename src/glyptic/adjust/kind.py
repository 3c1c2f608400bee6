"""What a kind of layer declares, and the ways it can colour what lies below it."""

from __future__ import annotations

from abc import ABC
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from glyptic.params import Schema, Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.shapes import Frame


@dataclass(frozen=True)
class Coloured:
    """What a layer brings: colour Cs (3, h, w) and alpha (h, w), or None for 1 everywhere."""

    colour: Planes
    alpha: Plane | None = None


class Kind(ABC):
    """A kind of layer. Subclasses declare; an instance in the module's namespace registers the kind.

    name: as the stack file writes it; title: as the page writes it; purpose: the section of the Add sheet;
    summary: one sentence of help; carries: '', 'picture', 'strokes' or 'layers'.
    """

    name: ClassVar[str]
    title: ClassVar[str]
    purpose: ClassVar[str]
    summary: ClassVar[str]
    schema: ClassVar[Schema] = Schema()
    default_blend: ClassVar[str] = "normal"
    carries: ClassVar[str] = ""

    def starting(self, width: int, height: int) -> dict[str, Any]:
        """Plain settings of a new layer on a picture of this size, where the defaults do not do."""
        return {}

    def is_neutral(self, settings: Values) -> bool:
        """Whether these settings leave every colour as it is (in normal mode the layer then does nothing)."""
        return bool(settings == Values({n: p.default for n, p in self.schema.params.items()}))


class PointWise(Kind):
    """A kind whose colour at a pixel needs that pixel and its place only."""

    def colour(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        """The layer's colour over a frame; `px` (3, h, w) is the backdrop and must not be written."""
        raise NotImplementedError


class Neighbourhood(Kind):
    """A kind whose colour at a pixel needs the backdrop around it."""

    def reach(self, settings: Values, step: float) -> int:
        """How many pixels of the level (of `step` full-size pixels each) it looks beyond a pixel."""
        raise NotImplementedError

    def around(self, settings: Values, px: Planes, frame: Frame) -> Coloured:
        """The colour over a frame from a backdrop that extends `reach` pixels beyond it on every side."""
        raise NotImplementedError


def empty_like(px: Planes) -> Planes:
    return np.empty(px.shape, np.float32)
