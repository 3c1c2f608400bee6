"""Nodes of paintings: strokes laid one over the other, tile by tile, each state under a key of its own.

The state after stroke n has the key digest(key n−1, stroke n) on the tiles the stroke touches and the key n−1
elsewhere, so one stroke more recomputes a handful of tiles and undo recomputes none.
"""

from __future__ import annotations

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.adjust.blur import BLUR
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect, tile_rect
from glyptic.brush.coverage import coverage, touched
from glyptic.brush.painting import even_out, paint
from glyptic.document.values import Painting, Stroke
from glyptic.engine.reader import PlaneNode, Reader
from glyptic.engine.surroundings import Surroundings
from glyptic.params import Values
from glyptic.pixels.compiled import Plane


class Blank(PlaneNode):
    """One value everywhere: what a painting starts from."""

    def __init__(self, value: float) -> None:
        super().__init__(digest("blank", value))
        self.value = value

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty))

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        return float32(self.value)


class Strokes(PlaneNode):
    """Strokes towards a value, over `under`."""

    def __init__(self, under: PlaneNode, strokes: Painting) -> None:
        super().__init__(b"", kept=True)
        self.under = under
        self.strokes = strokes
        self._areas: dict[int, NDArray[np.int64]] = {}

    def _touching(self, reader: Reader, rect: Rect) -> list[Stroke]:
        areas = self._areas.get(reader.level)
        if areas is None:
            rows = [(r.x, r.y, r.right, r.bottom) for r in (touched(s, reader.level) for s in self.strokes)]
            areas = self._areas[reader.level] = np.array(rows, np.int64).reshape(-1, 4)
        hit = (
            (areas[:, 0] < rect.right) & (areas[:, 2] > rect.x)
            & (areas[:, 1] < rect.bottom) & (areas[:, 3] > rect.y)
        )  # fmt: skip
        return [self.strokes[i] for i in np.flatnonzero(hit)]

    def _states(self, reader: Reader, tx: int, ty: int, strokes: list[Stroke]) -> list[bytes]:
        """The keys of the tile before any stroke and after each of those that touch it."""
        keys = [digest(reader.key(self.under, tx, ty), b"painted", reader.place(tx, ty))]
        for stroke in strokes:
            keys.append(digest(keys[-1], stroke.digest))
        return keys

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        touching = self._touching(reader, tile_rect(tx, ty).meet(reader.bounds))
        return self._states(reader, tx, ty, touching)[-1]

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        """A tile: from the latest earlier state that is still cached, the strokes since laid over it."""
        tx, ty = next(rect.tiles())
        strokes = self._touching(reader, rect)
        if not strokes:
            return reader.plane(self.under, rect)
        keys = self._states(reader, tx, ty, strokes)
        done, state = 0, None
        for n in range(len(strokes), 0, -1):
            state = reader.cache.peek(keys[n])
            if state is not None:
                done = n
                break
        before = state if state is not None else reader.plane(self.under, rect)
        px = np.empty((rect.h, rect.w), float32)
        px[:] = before
        frame = reader.frame(rect)
        for stroke in strokes[done:]:
            reader.counts["strokes"] += 1
            paint(px, coverage(stroke, frame), stroke.to if stroke.to is not None else 0.5)
        least = px.min()
        return float32(least) if least == px.max() else px


class Evened(PlaneNode):
    """A stroke that blurs the painting below it."""

    def __init__(self, under: PlaneNode, stroke: Stroke) -> None:
        super().__init__(digest("evened", stroke.digest), kept=True)
        under.kept = True
        self.under = under
        self.stroke = stroke
        self._soft = Surroundings(BLUR, Values({"sigma": stroke.even}), under)

    def _touches(self, reader: Reader, rect: Rect) -> bool:
        return not touched(self.stroke, reader.level).meet(rect).empty

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        if not self._touches(reader, reader.tile_rect(tx, ty)):
            return reader.key(self.under, tx, ty)
        return digest(self.own, reader.key(self.under, tx, ty), reader.key(self._soft, tx, ty))

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        if not self._touches(reader, rect):
            return reader.plane(self.under, rect)
        px = np.empty((rect.h, rect.w), float32)
        px[:] = reader.plane(self.under, rect)
        even_out(px, coverage(self.stroke, reader.frame(rect)), reader.read(self._soft, rect)[0])
        return px


def painting_node(start: float, strokes: Painting) -> PlaneNode:
    """The node of a painting that starts from one value."""
    node: PlaneNode = Blank(start)
    run: list[Stroke] = []
    for stroke in strokes:
        if stroke.even is None:
            run.append(stroke)
            continue
        if run:
            node = Strokes(node, tuple(run))
            run = []
        node = Evened(node, stroke)
    return Strokes(node, tuple(run)) if run else node
