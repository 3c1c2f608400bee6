"""Reading nodes: rectangles assembled from cached tiles, or computed, with keys made on the way.

A node is one state of the picture (or of a mask, or of a painting). A *kept* node lives in tiles in the cache;
any other is computed for just the rectangle wanted. A chain of steps is walked down to the nearest kept node and
then run upwards, each step in place on the same tile, which stays in the processor's cache.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from struct import pack
from threading import local
from typing import cast

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.meaning import of_pixels
from glyptic.base.rectangles import TILE, Canvas, Rect, step_of, tile_rect
from glyptic.brush.coverage import Trail, coverage
from glyptic.document.values import Stroke
from glyptic.engine.cache import TileCache
from glyptic.engine.nodes import HasKeys, Node, PlaneNode, Step
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.gaussian import ENLARGING_REACH, enlarged_from, folded, reflected
from glyptic.pixels.shapes import Patch

MEANING = of_pixels()
"""Stands in every key: what other code made is not what this code would make."""


@dataclass(frozen=True)
class Laid:
    """Pixels of a node over a rectangle, held for a moment. k: how many times smaller they are than wanted; then there
    are ENLARGING_REACH more of them on every side."""

    rect: Rect
    px: Planes
    k: int = 1

    def over(self, rect: Rect) -> Planes | None:
        """(channels, h, w) of a rectangle, a new array; None where it is not all here."""
        k = self.k
        margin = 0 if k == 1 else ENLARGING_REACH
        small = Rect.covering(rect.x / k, rect.y / k, rect.right / k, rect.bottom / k).grown(margin)
        if small.meet(self.rect) != small:
            return None
        x, y = small.x - self.rect.x, small.y - self.rect.y
        part = self.px[:, y : y + small.h, x : x + small.w]
        return np.array(part) if k == 1 else enlarged_from(part, k, rect)


Held = tuple[Node, Rect, Planes]
"""A node, a rectangle, and the node's pixels there."""


@dataclass
class Reader:
    """Reads nodes at one level of one canvas: of what the layers lie on, or of what comes out (see `on`).

    trail: the stroke that is being drawn, if one is. passing: whether the picture is gone through once from top to
    bottom.
    """

    cache: TileCache
    canvas: Canvas
    level: float
    trail: Trail | None = None
    passing: bool = False
    counts: Counter[str] = field(default_factory=Counter)
    laid: dict[tuple[Node, Canvas, float], Laid] = field(default_factory=dict)
    """What is held for a moment, while something moves (see `moving`)."""
    working: Node | None = None
    """What lies below the layer that is worked on: it is kept."""
    loose: frozenset[Node] = frozenset()
    """Nodes that are kept as a rule but not for this moment: they are different in the next."""
    _hand: local = field(default_factory=local)

    @property
    def bounds(self) -> Rect:
        return self.canvas.at(self.level)

    def on(self, canvas: Canvas, level: float) -> Reader:
        """A reader of what lies on another canvas, for a node that shows it in its own way."""
        same = canvas == self.canvas and level == self.level
        return self if same else replace(self, canvas=canvas, level=level)

    @property
    def is_whole(self) -> bool:
        """Whether its level is one that is kept of every picture."""
        return self.level == int(self.level)

    @property
    def step(self) -> float:
        """Full-size pixels to a pixel of this level."""
        return step_of(self.level)

    def patch(self, rect: Rect) -> Patch:
        return Patch(rect, self.level, *self.canvas)

    def cover(self, stroke: Stroke, patch: Patch) -> Plane:
        """S of a stroke; of the one being drawn only what is new is drawn."""
        if self.trail is not None and stroke.digest == self.trail.stroke.digest:
            return self.trail.cover(patch)
        return coverage(stroke, patch)

    def _keeps(self, node: Node) -> bool:
        kept = node.kept or node is self.working or (node.between and not self.is_whole)
        return kept and not (self.passing and node.fleeting) and node not in self.loose

    def lay(self, node: Node, laid: Laid) -> None:
        """Hold pixels of a node for a moment."""
        self.laid[node, self.canvas, self.level] = laid

    def has_laid(self, node: Node, rect: Rect) -> bool:
        """Whether all of a rectangle is held for a moment, as it is."""
        laid = self.laid.get((node, self.canvas, self.level))
        return laid is not None and laid.k == 1 and laid.rect.meet(rect) == rect

    def starts_from(self, node: Node, rect: Rect) -> bool:
        """Whether a rectangle is read, or kept in tiles, rather than worked out."""
        return self._keeps(node) or self.has_laid(node, rect)

    def place(self, tx: int, ty: int) -> bytes:
        """Which tile of which level of a picture of which size, made by which code, for keys."""
        return MEANING + pack("<2id2i", *self.canvas, self.level, tx, ty)

    def key(self, node: Node, tx: int, ty: int) -> bytes:
        """The key of a tile of a node, each made once per node; chains of steps are walked, not recursed."""
        spot = (*self.canvas, self.level, tx, ty)
        made = node.keys.get(spot)
        chain: list[Step] = []
        at = node
        while made is None and at.is_step:
            chain.append(cast(Step, at))
            at = chain[-1].below
            made = at.keys.get(spot)
        if made is None:
            made = at.keys[spot] = at.key(self, tx, ty)
        for step in reversed(chain):
            made = step.keys[spot] = step.key_over(self, tx, ty, made)
        return made

    def is_closed(self, mask: PlaneNode, tx: int, ty: int) -> bool:
        """Whether a mask is known to hide everything over a tile; looked for once, whichever plan asks."""
        spot = (*self.canvas, self.level, tx, ty)
        found = mask.closed.get(spot)
        if found is None:
            found = mask.closed[spot] = mask.known(self, self.tile_rect(tx, ty)) == 0
        return found

    def remember(self, of: HasKeys, x: int, y: int, make: Callable[[], bytes]) -> bytes:
        """The key of a place of something, made once."""
        spot = (*self.canvas, self.level, x, y)
        found = of.keys.get(spot)
        if found is None:
            found = of.keys[spot] = make()
        return found

    def keys_around(self, node: Node, tx: int, ty: int, reach: int) -> bytes:
        """A digest of the keys of every tile within `reach` pixels of a tile."""
        area = self.tile_rect(tx, ty).grown(reach).meet(self.bounds)
        return digest(*(self.key(node, x, y) for x, y in area.tiles()))

    def tile_rect(self, tx: int, ty: int) -> Rect:
        """The pixels of a tile that lie in the picture."""
        return tile_rect(tx, ty).meet(self.bounds)

    def hold(self, held: Held | None) -> None:
        """Say what this thread is working on: whoever wants to look at that finds it at hand (see `view`)."""
        self._hand.held = held

    def at_hand(self) -> Held | None:
        return getattr(self._hand, "held", None)

    def view(self, node: Node, rect: Rect) -> Planes:
        """As `read`, but not to be written, and without a copy where the pixels are at hand."""
        held = self.at_hand()
        if held is not None and held[0] is node and held[1] == rect:
            return held[2]
        if self._keeps(node) and not isinstance(node, PlaneNode) and not self.laid:
            tx, ty = rect.x // TILE, rect.y // TILE
            if rect.meet(tile_rect(tx, ty)) == rect:
                x, y = rect.x - tx * TILE, rect.y - ty * TILE
                return np.ascontiguousarray(self.tile(node, tx, ty)[:, y : y + rect.h, x : x + rect.w])
        return self.read(node, rect)

    def tile(self, node: Node, tx: int, ty: int) -> Planes:
        """A tile of a node, from the cache or computed; never to be written. A flat one is a single value."""

        def make() -> Planes:
            rect = self.tile_rect(tx, ty)
            made = node.plane(self, rect) if isinstance(node, PlaneNode) else node.evaluate(self, rect)
            self.counts["tiles"] += 1
            return np.asarray(made) if np.ndim(made) != 2 else np.asarray(made)[None]

        return self.cache.get_or(self.key(node, tx, ty), make, node.durable)

    def plane(self, node: PlaneNode, rect: Rect) -> Plane | float32:
        """(h, w) of a plane over a rectangle, not to be written, or the one value it has everywhere."""
        if not self._keeps(node):
            return node.plane(self, rect)
        tx, ty = rect.x // TILE, rect.y // TILE
        if rect.meet(tile_rect(tx, ty)) == rect:
            tile = self.tile(node, tx, ty)
            if tile.ndim == 0:
                return float32(tile)
            inside = tile[0, rect.y - ty * TILE : rect.bottom - ty * TILE, rect.x - tx * TILE : rect.right - tx * TILE]
            return np.ascontiguousarray(inside)
        value = self._same(node, rect)
        return np.asarray(self.read(node, rect)[0]) if value is None else value

    def _same(self, node: PlaneNode, rect: Rect) -> float32 | None:
        """The one value that all tiles of a rectangle have everywhere, or None."""
        values = {float(tile) if tile.ndim == 0 else None for tile in (self.tile(node, *at) for at in rect.tiles())}
        found = values.pop() if len(values) == 1 else None
        return None if found is None else float32(found)

    def read(self, node: Node, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle inside the picture: a new array, the caller's to write."""
        laid = self.laid.get((node, self.canvas, self.level)) if self.laid else None
        held = laid.over(rect) if laid is not None else None
        if held is not None:
            return held
        if not self._keeps(node):
            return node.evaluate(self, rect)
        out = np.empty((node.channels, rect.h, rect.w), np.float32)
        for tx, ty in rect.tiles():
            part = rect.meet(tile_rect(tx, ty))
            tile = self.tile(node, tx, ty)
            x, y = part.x - tx * TILE, part.y - ty * TILE
            inside = tile[:, y : y + part.h, x : x + part.w] if tile.ndim else tile
            out[:, part.y - rect.y : part.bottom - rect.y, part.x - rect.x : part.right - rect.x] = inside
        return out

    def within(self, rect: Rect) -> Rect:
        """The pixels of the picture that a rectangle which may reach beyond it is made of."""
        if rect.meet(self.bounds) == rect:
            return rect
        xs, ys = reflected(rect.x, rect.w, self.bounds.w), reflected(rect.y, rect.h, self.bounds.h)
        x, y = int(xs.min()), int(ys.min())
        return Rect(x, y, int(xs.max()) - x + 1, int(ys.max()) - y + 1)

    def read_around(self, node: Node, rect: Rect) -> Planes:
        """As `read`, for a rectangle that may reach beyond the picture, where it is half-sample symmetric."""
        if rect.meet(self.bounds) == rect:
            return self.read(node, rect)
        area = self.within(rect)
        xs, ys = reflected(rect.x, rect.w, self.bounds.w), reflected(rect.y, rect.h, self.bounds.h)
        return folded(self.read(node, area), ys - area.y, xs - area.x)
