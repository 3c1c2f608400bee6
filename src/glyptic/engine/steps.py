"""Nodes of layers: each takes the picture below and gives the picture after it."""

from __future__ import annotations

import numpy as np

from glyptic.adjust.grey import GREY
from glyptic.adjust.kind import Coloured, Neighbourhood, PointWise
from glyptic.base.digests import digest, digest_plain
from glyptic.base.rectangles import Rect
from glyptic.blend import fade, mix
from glyptic.document.values import Layer, Place
from glyptic.engine.reader import Node, Reader, Step
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.resample import place


class Base(Node):
    """The base picture."""

    def __init__(self, picture: Picture) -> None:
        super().__init__(digest("base", picture.key))
        self.picture = picture

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return self.picture.colour.read(rect, reader.level)


class LayerStep(Step):
    """What every layer has: opacity, blend mode and a mask."""

    def __init__(self, layer: Layer, settings: bytes, below: Node, mask: Node | None) -> None:
        super().__init__(digest(layer.kind, settings, layer.opacity, layer.blend), below)
        self.layer = layer
        self.mask = mask

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.mask, tx, ty) if self.mask is not None else b"")

    def masked(self, reader: Reader, rect: Rect) -> Plane | None:
        """The mask over a rectangle, or None where it shows everything."""
        return None if self.mask is None else reader.read(self.mask, rect)[0]

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        if mask is not None and not mask.any():
            return px
        return self.shown(reader, px, rect, mask)

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | None) -> Planes:
        """The state after this layer where its mask is not closed."""
        source = self.source(reader, px, rect)
        mix(
            px,
            source.colour,
            fade(source.alpha, self.layer.opacity, mask, (rect.h, rect.w)),
            self.layer.blend,
        )
        return px

    def source(self, reader: Reader, px: Planes, rect: Rect) -> Coloured:
        """The layer's own colour and alpha."""
        raise NotImplementedError


class PointWiseStep(LayerStep):
    """An adjustment or fill that looks at each pixel alone."""

    def __init__(self, kind: PointWise, layer: Layer, below: Node, mask: Node | None) -> None:
        super().__init__(layer, digest_plain(kind.schema.plain(layer.settings)), below, mask)
        self.kind = kind

    def source(self, reader: Reader, px: Planes, rect: Rect) -> Coloured:
        return self.kind.colour(self.layer.settings, px, reader.frame(rect))


class NeighbourhoodStep(LayerStep):
    """An adjustment that looks around each pixel; what is below it and what follows it are kept."""

    def __init__(self, kind: Neighbourhood, layer: Layer, below: Node, mask: Node | None) -> None:
        super().__init__(layer, digest_plain(kind.schema.plain(layer.settings)), below, mask)
        self.kind = kind
        self.kept = below.kept = True

    def _reach(self, reader: Reader) -> int:
        return self.kind.reach(self.layer.settings, reader.step)

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.keys_around(self.below, tx, ty, self._reach(reader)))

    def source(self, reader: Reader, px: Planes, rect: Rect) -> Coloured:
        wide = reader.read_around(self.below, rect.grown(self._reach(reader)))
        return self.kind.around(self.layer.settings, wide, reader.frame(rect))


class GreyStep(LayerStep):
    """A grey layer: its painting dodges and burns what is below."""

    def __init__(self, layer: Layer, below: Node, mask: Node | None, painting: Node) -> None:
        super().__init__(layer, digest_plain(GREY.schema.plain(layer.settings)), below, mask)
        self.painting = painting

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.key(self.painting, tx, ty))

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | None) -> Planes:
        painted = reader.read(self.painting, rect)[0]
        alpha = fade(None, self.layer.opacity, mask, painted.shape)
        GREY.apply(self.layer.settings, self.layer.blend, px, painted, alpha)
        return px


class PlacedStep(LayerStep):
    """A picture laid over what is below."""

    def __init__(self, layer: Layer, picture: Picture, where: Place, below: Node, mask: Node | None) -> None:
        settings = digest(picture.key, where.x, where.y, where.scale, where.rotation)
        super().__init__(layer, settings, below, mask)
        self.picture = picture
        self.place = where

    def source(self, reader: Reader, px: Planes, rect: Rect) -> Coloured:
        where = self.place
        colour, alpha = place(self.picture, reader.frame(rect), (where.x, where.y), where.scale, where.rotation)
        return Coloured(colour, alpha)


class GroupStep(LayerStep):
    """The end of a group: C = Cb + opacity · mask · (R − Cb), R what its layers made of the backdrop Cb."""

    def __init__(self, layer: Layer, inner: Node, backdrop: Node, mask: Node | None) -> None:
        super().__init__(layer, b"", inner, mask)
        backdrop.kept = True
        self.backdrop = backdrop

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.key(self.backdrop, tx, ty))

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        below = reader.read(self.backdrop, rect)
        if mask is not None and not mask.any():
            return below
        if mask is None and self.layer.opacity == 1:
            return px
        mix(below, px, fade(None, self.layer.opacity, mask, (rect.h, rect.w)), "normal")
        return below


class OneChannel(Node):
    """A single plane shown as grey: a mask or a painting by itself."""

    def __init__(self, plane: Node) -> None:
        super().__init__(digest("as grey"))
        self.plane = plane

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty), reader.key(self.plane, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return np.repeat(reader.read(self.plane, rect), 3, axis=0)
