"""Nodes of what is done to a mask as a whole: grown, moved by levels and a curve, thinned (docs/masks.md)."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.blend import flat
from glyptic.document.values import Mask
from glyptic.engine.nodes import PlaneNode, flat_or_plane
from glyptic.engine.reader import Reader
from glyptic.masks import whole
from glyptic.pixels import discs
from glyptic.pixels.compiled import Plane
from glyptic.pixels.tables import make_table, through
from glyptic.pixels.vector import ONE


class Grown(PlaneNode):
    """What is shown grown by so many full-size pixels, or shrunk: the greatest or the least value within a disc."""

    def __init__(self, plane: PlaneNode, radius: float) -> None:
        super().__init__(digest("grown", radius))
        plane.watch()
        self.kept = True
        self.below = plane
        self.radius = radius

    def _reach(self, reader: Reader) -> int:
        return discs.reach(self.radius / reader.step)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty), reader.keys_around(self.below, tx, ty, self._reach(reader)))

    def known(self, reader: Reader, rect: Rect) -> float | None:
        return self.below.known(reader, reader.within(rect.grown(self._reach(reader))))

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        around = reader.read_around(self.below, rect.grown(self._reach(reader)))[0]
        if around.min() == around.max():
            return float32(around[0, 0])
        radius = abs(self.radius) / reader.step
        return flat_or_plane(
            discs.widest(around, radius) if self.radius > 0 else ONE - discs.widest(ONE - around, radius)
        )


class Moved(PlaneNode):
    """Levels and a curve on a mask."""

    def __init__(self, plane: PlaneNode, mask: Mask) -> None:
        ends = mask.levels
        own = digest("moved", ends["black"], ends["white"], ends["gamma"], *(v for point in mask.curve for v in point))
        super().__init__(own)
        self.below = plane
        self.function = whole.moved(mask)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.below, tx, ty))

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        m, function = reader.plane(self.below, rect), self.function
        if function is None:
            return m
        if not isinstance(m, np.ndarray) or m.ndim == 0:
            return self._moved(float(m))
        table = reader.cache.ready(self.own, lambda: make_table(function))
        out = m[None].copy()
        through(out, flat(1.0, m.shape), (table,))
        return flat_or_plane(out[0])

    def _moved(self, m: float) -> float32:
        return float32(m if self.function is None else self.function(np.array([m], np.float64))[0])

    def known(self, reader: Reader, rect: Rect) -> float | None:
        m = self.below.known(reader, rect)
        return m if m is None else float(self._moved(m))


class Thinned(PlaneNode):
    """Density: m = 1 − density · (1 − m)."""

    def __init__(self, plane: PlaneNode, density: float) -> None:
        super().__init__(digest("density", density))
        self.below = plane
        self.density = float32(density)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.below, tx, ty))

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        return ONE - self.density * (ONE - reader.plane(self.below, rect))

    def known(self, reader: Reader, rect: Rect) -> float | None:
        m = self.below.known(reader, rect)
        return m if m is None else float(ONE - self.density * (ONE - float32(m)))
