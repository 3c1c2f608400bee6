"""Nodes of paintings: strokes laid one over the other, tile by tile, each state under a key of its own.

The state after stroke n has the key digest(key n−1, stroke n) on the tiles the stroke touches and the key n−1
elsewhere, so one stroke more recomputes a handful of tiles and undo recomputes none.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from threading import Lock

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.adjust.blur import BLUR
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.brush.coverage import touched
from glyptic.brush.painting import even_out, paint
from glyptic.document.runs import runs
from glyptic.document.values import Painting, Stroke
from glyptic.engine.nodes import PlaneNode, flat_or_plane
from glyptic.engine.reader import Reader
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

    def known(self, reader: Reader, rect: Rect) -> float | None:
        return self.value


class Strokes(PlaneNode):
    """A run of strokes towards a value, over `under`."""

    def __init__(self, under: PlaneNode, strokes: Painting) -> None:
        super().__init__(b"")
        self.under = under
        self.strokes = strokes
        self._areas: dict[float, NDArray[np.int64]] = {}
        self._keys: dict[tuple[bytes, bytes], list[bytes]] = {}
        self._states_kept = 0

    @property
    def weight(self) -> int:
        return super().weight + sum(area.nbytes for area in self._areas.values()) + STATE_WEIGHT * self._states_kept

    def touching(self, reader: Reader, rect: Rect) -> list[Stroke]:
        """The strokes that may touch a rectangle, in order."""
        return [self.strokes[i] for i in np.flatnonzero(self._hit(reader, rect))]

    def _hit(self, reader: Reader, rect: Rect) -> NDArray[np.bool_]:
        """Of each stroke whether it may touch a rectangle."""
        areas = self._areas.get(reader.level)
        if areas is None:
            rows = [(r.x, r.y, r.right, r.bottom) for r in (touched(s, reader.level) for s in self.strokes)]
            areas = self._areas[reader.level] = np.array(rows, np.int64).reshape(-1, 4)
        hit: NDArray[np.bool_] = (
            (areas[:, 0] < rect.right) & (areas[:, 2] > rect.x)
            & (areas[:, 1] < rect.bottom) & (areas[:, 3] > rect.y)
        )  # fmt: skip
        return hit

    def _states(self, reader: Reader, tx: int, ty: int) -> list[bytes]:
        """The keys of the tile before any stroke and after each of those that touch it; remembered by the node."""
        start = reader.key(self.under, tx, ty)
        place = (start, reader.place(tx, ty))
        keys = self._keys.get(place)
        if keys is None:
            keys = [start]
            for stroke in self.touching(reader, reader.tile_rect(tx, ty)):
                keys.append(digest(keys[-1], stroke.digest))
            self._keys[place] = keys
            self._states_kept += len(keys)
        return keys

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return self._states(reader, tx, ty)[-1]

    def known(self, reader: Reader, rect: Rect) -> float | None:
        return None if self._hit(reader, rect).any() else self.under.known(reader, rect)

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        """A tile: from the latest earlier state that is still kept, the strokes since laid over it."""
        keys = self._states(reader, *next(rect.tiles()))
        strokes = self.touching(reader, rect)
        state, done = None, len(strokes)
        while done and state is None:
            state = reader.cache.peek(keys[done])
            done -= state is None
        before = state if state is not None else reader.plane(self.under, rect)
        if done == len(strokes):
            return before[0] if isinstance(before, np.ndarray) and before.ndim == 3 else float32(before)
        px = np.empty((rect.h, rect.w), float32)
        px[:] = before
        patch = reader.patch(rect)
        for n, stroke in enumerate(strokes[done:], done + 1):
            reader.counts["strokes"] += 1
            paint(px, reader.cover(stroke, patch), stroke.to if stroke.to is not None else 0.5)
            if reader.trail is not None and n == len(strokes) - 1:
                reader.cache.put(keys[n], px[None].copy())  # the stroke in the hand is laid over this again and again
        return flat_or_plane(px)


class Evened(PlaneNode):
    """A stroke that blurs the painting below it."""

    def __init__(self, under: PlaneNode, stroke: Stroke) -> None:
        super().__init__(digest("evened", stroke.digest))
        self.under = Settled(under)
        self.stroke = stroke
        self._soft = Surroundings(BLUR, Values({"sigma": stroke.even}), self.under)

    def _touches(self, reader: Reader, rect: Rect) -> bool:
        return not touched(self.stroke, reader.level).meet(rect).empty

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        if not self._touches(reader, reader.tile_rect(tx, ty)):
            return reader.key(self.under, tx, ty)
        return digest(self.own, reader.key(self.under, tx, ty), reader.key(self._soft, tx, ty))

    def known(self, reader: Reader, rect: Rect) -> float | None:
        return None if self._touches(reader, rect) else self.under.known(reader, rect)

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        if not self._touches(reader, rect):
            return reader.plane(self.under, rect)
        px = np.empty((rect.h, rect.w), float32)
        px[:] = reader.plane(self.under, rect)
        even_out(px, reader.cover(self.stroke, reader.patch(rect)), reader.read(self._soft, rect)[0])
        return px


class Settled(PlaneNode):
    """A painting as others read it: kept in tiles, and worth keeping also when the server stops."""

    durable = True

    def __init__(self, node: PlaneNode) -> None:
        super().__init__(b"", kept=True)
        self.node = node

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return reader.key(self.node, tx, ty)

    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        return reader.plane(self.node, rect)

    def known(self, reader: Reader, rect: Rect) -> float | None:
        return self.node.known(reader, rect)


STATE_WEIGHT = 58
"""Bytes of a remembered key of a state within a run."""
NODE_WEIGHT = 2000
LOOK_AFTER = 48
"""How many nodes are made before it is looked again what they have come to weigh: they grow while they are read."""


@dataclass
class Chains:
    """The nodes of paintings, shared by the plans they occur in: within `budget` bytes of what they remember, the least
    recently used go first."""

    budget: int = 128 * 2**20
    _nodes: OrderedDict[bytes, PlaneNode] = field(default_factory=OrderedDict)
    _made: int = 0
    _lock: Lock = field(default_factory=Lock)

    def node(self, key: bytes, make: Callable[[], PlaneNode]) -> PlaneNode:
        with self._lock:
            found = self._nodes.get(key)
            if found is None:
                found = self._nodes[key] = make()
                self._made += 1
                if self._made % LOOK_AFTER == 0:
                    self._keep_within()
            self._nodes.move_to_end(key)
            return found

    @property
    def bytes(self) -> int:
        """About what all of them remember."""
        return sum(NODE_WEIGHT + node.weight for node in list(self._nodes.values()))

    def _keep_within(self) -> None:
        held = self.bytes
        while held > self.budget and len(self._nodes) > 1:
            held -= NODE_WEIGHT + self._nodes.popitem(last=False)[1].weight

    def painting(self, start: float, strokes: Painting) -> PlaneNode:
        """The node of a painting that starts from one value."""
        blank = node = self.node(digest("blank", start), partial(Blank, start))
        key = digest("painting", start)
        for piece in (piece for run in runs(strokes) for piece in run.pieces):
            key = digest(key, piece.digest)
            first = piece.strokes[0]
            made = partial(Evened, node, first) if first.even else partial(Strokes, node, piece.strokes)
            node = self.node(key, made)
        return node if node is blank else self.node(digest("settled", key), partial(Settled, node))
