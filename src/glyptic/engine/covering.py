"""Isolated groups (docs/isolated.md): states with an alpha, and the layers that bring colour of their own.

Such a state has four planes: colour, not premultiplied, and the alpha of what the group has brought so far.
"""

from __future__ import annotations

from abc import abstractmethod

import numpy as np
from numpy import float32

from glyptic.adjust.kind import PointWise
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.blend import mix
from glyptic.document.values import Layer, Place
from glyptic.engine.nodes import Node, PlaneNode
from glyptic.engine.reader import Reader
from glyptic.engine.steps import GroupStep, LayerStep, laid, placing
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.tables import make_table, through


def clear(px: Planes) -> Planes:
    """(4, h, w): a colour of which nothing is brought yet."""
    return np.concatenate([px[:3], np.zeros_like(px[:1])])


class Clear(Node):
    """Where an isolated group begins: the colour of what is below it, and over it a fourth plane, the alpha of what the
    group brings: nothing yet."""

    channels = 4

    def __init__(self, below: Node) -> None:
        super().__init__(digest("clear"))
        self.below = below
        self.space = below.space

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.below, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return clear(reader.read(self.below, rect))


def covered(px: Planes, colour: Planes, alpha: Plane, mode: str) -> None:
    """Lay a colour of its own over a state with an alpha, in place (W3C Compositing and Blending Level 1, section 5).

    px: (4, h, w) colour, not premultiplied, and alpha; colour: (3, h, w); alpha: (h, w) in 0..1.
    """
    over = px[:3].copy()
    mix(over, colour, alpha, mode)
    before = px[3].copy()
    px[3] = before + alpha * (1 - before)
    share = np.divide(alpha * (1 - before), px[3], out=np.zeros_like(alpha), where=px[3] > 0)
    np.copyto(px[:3], over + share * (colour - over), where=px[3] > 0)


class CoverStep(LayerStep):
    """A layer in an isolated group that brings colour and alpha of its own; what it covers counts for the group."""

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        if mask is None or np.ndim(mask) or mask:
            colour, own = self.brought(reader, rect)
            covered(px, colour, self.faded(rect, mask, own), self.layer.blend)
        return px

    @abstractmethod
    def brought(self, reader: Reader, rect: Rect) -> tuple[Planes, Plane | None]:
        """The layer's colour (3, h, w) and its own alpha, None for 1 everywhere."""

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        """A layer that covers is laid by `over`."""


class CoveringFill(CoverStep):
    """A fill or gradient in an isolated group."""

    def __init__(self, kind: PointWise, layer: Layer, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, kind.schema.digest(layer.settings), below, mask)
        self.kind = kind

    def brought(self, reader: Reader, rect: Rect) -> tuple[Planes, Plane | None]:
        kind, patch = self.kind, reader.patch(rect)
        colour, ones = np.zeros((3, rect.h, rect.w), float32), np.ones((rect.h, rect.w), float32)
        moves = kind.channels(self.layer.settings)
        if moves is not None:
            through(colour, ones, tuple(None if move is None else make_table(move) for move in moves))
            return colour, None
        ready = self.ready(reader, kind)
        kind.lay(ready, colour, ones, patch)
        return colour, kind.veil(ready, patch)


class CoveringPicture(CoverStep):
    """A picture in an isolated group."""

    def __init__(self, layer: Layer, picture: Picture, where: Place, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, placing(picture, where), below, mask)
        self.picture = picture
        self.place = where

    def brought(self, reader: Reader, rect: Rect) -> tuple[Planes, Plane | None]:
        return laid(self.picture, self.place, reader.patch(rect))


class IsolatedStep(GroupStep):
    """The end of an isolated group: what its layers brought, laid on the backdrop in the group's blend mode."""

    def __init__(self, layer: Layer, inner: Node, backdrop: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, inner, backdrop, mask)
        self.channels = backdrop.channels

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        below = reader.read(self.backdrop, rect)
        if mask is None or np.ndim(mask) or mask:
            alpha = self.faded(rect, mask, px[3])
            if self.channels == 4:
                covered(below, px[:3], alpha, self.layer.blend)
            else:
                mix(below, np.ascontiguousarray(px[:3]), alpha, self.layer.blend)
        return below
