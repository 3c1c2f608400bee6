"""Nodes of layers: each takes the picture below and gives the picture after it."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from dataclasses import replace
from threading import local
from typing import Any

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.adjust.grey import GREY, NEUTRAL
from glyptic.adjust.kind import Kind, PointWise
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.blend import NEUTRAL_MODES, SEPARABLE, blended, fade, flat, mix
from glyptic.blend.premultiplied import mix_premultiplied
from glyptic.document.values import Layer, Place
from glyptic.engine.nodes import Node, PlaneNode, Step
from glyptic.engine.reader import Reader
from glyptic.engine.surroundings import Surroundings
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.resample import place, place_by_corners
from glyptic.pixels.shapes import Patch
from glyptic.pixels.spaces import SRGB, Space
from glyptic.pixels.tables import Function, Table, chained, make_table, through

Moves = tuple[Function | None, ...]


def blended_by(move: Function | None, mode: str) -> Function | None:
    """A channel's function with a separable blend mode in it; the identity in normal mode stays none at all."""
    if mode == "normal":
        return move

    def blend(x: NDArray[np.float64]) -> NDArray[np.float64]:
        return blended(x, x if move is None else move(x), mode)

    return blend


def mixed_in(move: Function, opacity: float) -> Function:
    """A channel's function with a layer's opacity in it."""
    if opacity == 1:
        return move

    def mixed(x: NDArray[np.float64]) -> NDArray[np.float64]:
        return x + opacity * (move(x) - x)

    return mixed


_SCRATCH = local()


def _copied(px: Planes) -> Planes:
    """A copy that lasts until this thread makes the next one: fresh memory costs more than the copying."""
    buffer = getattr(_SCRATCH, "buffer", None)
    if buffer is None or buffer.size < px.size:
        buffer = _SCRATCH.buffer = np.empty(px.size, float32)
    copied: Planes = buffer[: px.size].reshape(px.shape)
    copied[:] = px
    return copied


class Base(Node):
    """The base picture, in a working space."""

    between = True

    def __init__(self, picture: Picture, space: Space) -> None:
        super().__init__(digest("base", picture.key, space.name))
        self.picture = picture
        self.space = space

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return self.picture.colour.read(rect, reader.level)


class BaseAlpha(Node):
    """The base picture's alpha, one plane of 0..1."""

    channels = 1
    between = True

    def __init__(self, picture: Picture) -> None:
        super().__init__(digest("alpha", picture.key))
        self.picture = picture

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        if self.picture.alpha is None:
            return np.ones((1, rect.h, rect.w), float32)
        return self.picture.alpha.read(rect, reader.level)


class LayerStep(Step):
    """What every layer has: opacity, blend mode and a mask."""

    def __init__(self, layer: Layer, settings: bytes, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(digest(layer.kind, settings, layer.opacity, layer.blend), below)
        self.channels = below.channels
        self.layer = layer
        self.mask = mask
        self._ready = digest(self.own, below.space.name)

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.mask, tx, ty) if self.mask is not None else b"")

    def key_over(self, reader: Reader, tx: int, ty: int, below: bytes) -> bytes:
        closed = self.mask is not None and reader.is_closed(self.mask, tx, ty)
        return self.untouched(reader, tx, ty, below) if closed else super().key_over(reader, tx, ty, below)

    def untouched(self, reader: Reader, tx: int, ty: int, below: bytes) -> bytes:
        """The key of a tile over which the layer shows nowhere: nothing is made anew there when it changes."""
        return below

    def ready(self, reader: Reader, kind: Kind) -> Any:
        """What a kind makes of the layer's settings, made once."""
        return reader.cache.ready(self._ready, lambda: kind.ready(self.layer.settings, self.space))

    def masked(self, reader: Reader, rect: Rect) -> Plane | float32 | None:
        """The mask over a rectangle, or the one value it has there; None where it shows everything."""
        return None if self.mask is None else reader.plane(self.mask, rect)

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        if mask is None or np.ndim(mask) or mask:
            self.shown(reader, px[:3], rect, mask)
        return px

    def faded(self, rect: Rect, mask: Plane | float32 | None, own: Plane | None = None) -> Plane:
        """a = layer alpha · opacity · mask over a rectangle."""
        return fade(own, self.layer.opacity, mask, (rect.h, rect.w))

    def blended(self, px: Planes, alpha: Plane, lay: Callable[[Planes, Plane], None]) -> None:
        """Lay something over `px` in the layer's blend mode; `lay` does so in normal mode, in place."""
        if self.layer.blend == "normal":
            lay(px, alpha)
            return
        source = _copied(px)
        lay(source, flat(1.0, alpha.shape))
        mix(px, source, alpha, self.layer.blend)

    @abstractmethod
    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        """Lay the layer over `px`, in place, where its mask is not closed."""


class TabledStep(LayerStep):
    """An adjustment or fill that moves each channel by a function of its own: one table each."""

    def __init__(self, own: bytes, layer: Layer, moves: Moves, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, own, below, mask)
        self.moves = moves

    def tables(self, reader: Reader) -> tuple[Table | None, ...]:
        def made() -> tuple[Table | None, ...]:
            same: dict[Function, Table] = {}
            for move in self.moves:
                if move is not None and move not in same:
                    same[move] = make_table(move)
            return tuple(None if move is None else same[move] for move in self.moves)

        return reader.cache.ready(self.own, made)


class TableStep(TabledStep):
    """The tables, with the blend mode in them, are all there is to it; neighbours without masks become one."""

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        through(px, self.faded(rect, mask), self.tables(reader))

    def merged(self, following: Step) -> Step | None:
        if not isinstance(following, TableStep) or self.mask is not None or following.mask is not None:
            return None
        pairs = zip(self._mixed(), following._mixed(), strict=True)
        moves = tuple(chained(first, then) for first, then in pairs)
        whole = replace(self.layer, opacity=1.0)
        return TableStep(digest(self.own, following.own), whole, moves, self.below, None)

    def _mixed(self) -> Moves:
        """The channels' functions with the layer's opacity in them."""
        return tuple(None if move is None else mixed_in(move, self.layer.opacity) for move in self.moves)


class PointWiseStep(LayerStep):
    """An adjustment or fill that looks at each pixel and its place alone, with a kernel of its own."""

    def __init__(self, kind: PointWise, layer: Layer, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, kind.schema.digest(layer.settings), below, mask)
        self.kind = kind

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        kind, patch = self.kind, reader.patch(rect)
        ready = self.ready(reader, kind)
        alpha = self.faded(rect, mask, kind.veil(ready, patch))
        self.blended(px, alpha, lambda over, a: kind.lay(ready, over, a, patch))


class MixedTableStep(TabledStep):
    """In a blend mode that mixes channels the tables' result is mixed in by a second kernel."""

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        self.blended(px, self.faded(rect, mask), lambda over, a: through(over, a, self.tables(reader)))


def pointwise_step(kind: PointWise, layer: Layer, below: Node, mask: PlaneNode | None) -> LayerStep:
    """The step of a point-wise layer: by tables where its kind and settings allow."""
    moves = kind.channels(layer.settings)
    if moves is None:
        return PointWiseStep(kind, layer, below, mask)
    settings = kind.schema.digest(layer.settings)
    if layer.blend in ("normal", *SEPARABLE):
        return TableStep(settings, layer, tuple(blended_by(move, layer.blend) for move in moves), below, mask)
    return MixedTableStep(settings, layer, moves, below, mask)


class NeighbourhoodStep(LayerStep):
    """An adjustment that looks around each pixel. `surroundings` is its colour: of what is below, or, while a stroke
    is drawn further down, of what was below before it; then what is below now need not be kept: only what is under
    the hand is worked out, and that is different a moment later."""

    def __init__(self, layer: Layer, surroundings: Surroundings, below: Node, mask: PlaneNode | None) -> None:
        kind = surroundings.kind
        super().__init__(layer, kind.schema.digest(layer.settings), below, mask)
        self.kind = kind
        self.surroundings = surroundings
        if surroundings.below is below:
            below.watch()

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.key(self.surroundings, tx, ty))

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        kind, around = self.kind, reader.view(self.surroundings, rect)
        ready = self.ready(reader, kind)
        self.blended(px, self.faded(rect, mask), lambda over, alpha: kind.lay(ready, around, over, alpha))


class GreyStep(LayerStep):
    """A grey layer: its painting dodges and burns what is below."""

    def __init__(self, layer: Layer, below: Node, mask: PlaneNode | None, painting: PlaneNode) -> None:
        super().__init__(layer, GREY.schema.digest(layer.settings), below, mask)
        self.painting = painting

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.key(self.painting, tx, ty))

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        painted = reader.plane(self.painting, rect)
        if not isinstance(painted, np.ndarray):
            if painted == NEUTRAL and self.layer.blend in NEUTRAL_MODES:
                return
            painted = flat(float(painted), (rect.h, rect.w))
        GREY.apply(self.layer.settings, self.layer.blend, px, painted, self.faded(rect, mask), self.space)


def placing(picture: Picture, where: Place) -> bytes:
    """The digest of a picture and of where it lies."""
    corners = [value for corner in where.corners or () for value in corner]
    return digest(picture.key, where.x, where.y, where.scale, where.rotation, *corners)


def laid(picture: Picture, where: Place, patch: Patch) -> tuple[Planes, Plane]:
    """Colour (3, h, w) and coverage (h, w) of a picture that lies somewhere, over a patch."""
    if where.corners is not None:
        return place_by_corners(picture, patch, where.corners)
    return place(picture, patch, (where.x, where.y), where.scale, where.rotation)


class PlacedStep(LayerStep):
    """A picture laid over what is below."""

    def __init__(self, layer: Layer, picture: Picture, where: Place, below: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, placing(picture, where), below, mask)
        self.picture = picture
        self.place = where

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        colour, alpha = laid(self.picture, self.place, reader.patch(rect))
        mix(px, colour, self.faded(rect, mask, alpha), self.layer.blend)


class GroupStep(LayerStep):
    """The end of a group: C = Cb + opacity · mask · (R − Cb), R what its layers made of the backdrop Cb."""

    def __init__(self, layer: Layer, inner: Node, backdrop: Node, mask: PlaneNode | None) -> None:
        super().__init__(layer, b"", inner, mask)
        backdrop.watch()
        self.backdrop = backdrop

    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(super().inputs(reader, tx, ty), reader.key(self.backdrop, tx, ty))

    def untouched(self, reader: Reader, tx: int, ty: int, below: bytes) -> bytes:
        return reader.key(self.backdrop, tx, ty)

    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        mask = self.masked(reader, rect)
        below = reader.read(self.backdrop, rect)
        if mask is None and self.layer.opacity == 1:
            return px
        if mask is None or np.ndim(mask) or mask:
            self._mix_in(below, px, rect, mask)
        return below

    def _mix_in(self, below: Planes, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        share = self.faded(rect, mask)
        if self.channels == 4:
            mix_premultiplied(below, px, share)
        else:
            mix(below, px, share, "normal")

    def shown(self, reader: Reader, px: Planes, rect: Rect, mask: Plane | float32 | None) -> None:
        """A group is shown by `over`: it needs both what its layers made and what lay below them."""


class OneChannel(Node):
    """A single plane shown as grey: a mask or a painting by itself. Greys are the same in every space."""

    space = SRGB

    def __init__(self, plane: Node) -> None:
        super().__init__(digest("as grey"))
        self.plane = plane

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty), reader.key(self.plane, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return np.repeat(reader.read(self.plane, rect), 3, axis=0)
