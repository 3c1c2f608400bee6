"""Nodes of paintings: strokes laid one over the other, tile by tile, each state under a key of its own.

The state after stroke n has the key digest(key n−1, stroke n) on the tiles the stroke touches and the key n−1
elsewhere, so one stroke more recomputes a handful of tiles and undo recomputes none.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect, tile_rect
from glyptic.brush.coverage import coverage, touched
from glyptic.brush.painting import even_out, paint
from glyptic.document.values import Painting, Stroke
from glyptic.engine.reader import Node, Reader
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Planes


class Blank(Node):
    """One value everywhere: what a painting starts from."""

    channels = 1

    def __init__(self, value: float) -> None:
        super().__init__(digest("blank", value))
        self.value = value

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.place(tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return np.full((1, rect.h, rect.w), self.value, np.float32)


class Strokes(Node):
    """Strokes towards a value, over `under`."""

    channels = 1

    def __init__(self, under: Node, strokes: Painting) -> None:
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

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        """A tile: from the latest earlier state that is still cached, the strokes since laid over it."""
        tx, ty = next(rect.tiles())
        strokes = self._touching(reader, rect)
        keys = self._states(reader, tx, ty, strokes)
        done, state = 0, None
        for n in range(len(strokes), 0, -1):
            state = reader.cache.peek(keys[n])
            if state is not None:
                done = n
                break
        px = state.copy() if state is not None else reader.read(self.under, rect)
        frame = reader.frame(rect)
        for stroke in strokes[done:]:
            reader.counts["strokes"] += 1
            paint(px[0], coverage(stroke, frame), stroke.to if stroke.to is not None else 0.5)
        return px


class Evened(Node):
    """A stroke that blurs the painting below it."""

    channels = 1

    def __init__(self, under: Node, stroke: Stroke) -> None:
        super().__init__(digest("evened", stroke.digest), kept=True)
        under.kept = True
        self.under = under
        self.stroke = stroke

    def _reach(self, reader: Reader) -> int:
        return gaussian.reach((self.stroke.even or 0.0) / reader.step)

    def _touches(self, reader: Reader, rect: Rect) -> bool:
        return not touched(self.stroke, reader.level).meet(rect).empty

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        if not self._touches(reader, tile_rect(tx, ty).meet(reader.bounds)):
            return reader.key(self.under, tx, ty)
        return digest(self.own, reader.level, reader.keys_around(self.under, tx, ty, self._reach(reader)))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = reader.read(self.under, rect)
        if self._touches(reader, rect):
            margin = self._reach(reader)
            wide = reader.read_around(self.under, rect.grown(margin))
            smooth = gaussian.blur(wide, rect.x - margin, rect.y - margin, (self.stroke.even or 0.0) / reader.step)
            even_out(px[0], coverage(self.stroke, reader.frame(rect)), smooth[0])
        return px


def painting_node(start: float, strokes: Painting) -> Node:
    """The node of a painting that starts from one value."""
    node: Node = Blank(start)
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
