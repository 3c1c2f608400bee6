"""Reading nodes: rectangles assembled from cached tiles, or computed, with keys made on the way.

A node is one state of the picture (or of a mask, or of a painting). A *kept* node lives in tiles in the cache;
any other is computed for just the rectangle wanted. A chain of steps is walked down to the nearest kept node and
then run upwards, each step in place on the same tile, which stays in the processor's cache.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from struct import pack
from threading import local
from typing import Protocol, cast

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.meaning import of_pixels
from glyptic.base.rectangles import TILE, Canvas, Rect, tile_rect
from glyptic.brush.coverage import Trail, coverage
from glyptic.document.values import Stroke
from glyptic.engine.cache import TileCache
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.gaussian import folded, reflected
from glyptic.pixels.shapes import Patch, is_flat
from glyptic.pixels.spaces import Space

MEANING = of_pixels()
"""Stands in every key: what other code made is not what this code would make."""

Spot = tuple[int, int, int, int, int]
"""Width and height of the picture, level, and place."""
Keys = dict[Spot, bytes]


KEY_WEIGHT = 260
"""Bytes of a remembered key with its place."""


class HasKeys(Protocol):
    """Something that remembers its keys: they never change, and go with it."""

    keys: Keys


class Node(ABC):
    """A state with `channels` planes. `own` is the digest of everything but its inputs.

    keys: those made so far, whichever plan asked. is_step: whether it is a Step. watchers: see `watch`.
    durable: whether its tiles cost so much to make again that they are worth keeping when the server stops.
    fleeting: whether its tiles, though kept, are not worth keeping where each is wanted but once.
    """

    space: Space
    """The working space of its colours; none of one plane."""
    channels = 3
    is_step = False
    durable = False
    fleeting = False

    def __init__(self, own: bytes, kept: bool = False) -> None:
        self.own = own
        self.keys: Keys = {}
        self.kept = kept
        self.watchers = 0

    @property
    def weight(self) -> int:
        """About how many bytes it remembers."""
        return KEY_WEIGHT * len(self.keys)

    def watch(self) -> None:
        """Somebody will read this node in other places or at other times than it is made: it is to be kept."""
        self.kept = True
        self.watchers += 1

    @abstractmethod
    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        """The key of a tile: a digest of everything that goes into it."""

    @abstractmethod
    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle inside the picture, a new array."""

    def needs(self, reader: Reader, rect: Rect) -> Rect:
        """The pixels of what the layers lie on that a rectangle of this node is made of: the same, unless it shows them
        elsewhere."""
        return rect


class PlaneNode(Node):
    """A node of one plane, which may know that it is flat: one value over a whole rectangle."""

    channels = 1

    def __init__(self, own: bytes, kept: bool = False) -> None:
        super().__init__(own, kept)
        self.closed: dict[Spot, bool] = {}

    @property
    def weight(self) -> int:
        return super().weight + KEY_WEIGHT * len(self.closed)

    @abstractmethod
    def plane(self, reader: Reader, rect: Rect) -> Plane | float32:
        """(h, w) of a rectangle, not to be written, or the one value it has everywhere."""

    def known(self, reader: Reader, rect: Rect) -> float | None:
        """The one value it has all over a rectangle, where that follows without a pixel; None where it may not."""
        return None

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        found = self.plane(reader, rect)
        if isinstance(found, np.ndarray):
            return np.array(found[None])
        return np.full((1, rect.h, rect.w), found, float32)


def flat_or_plane(plane: Plane) -> Plane | float32:
    """A plane, or the one value it has everywhere."""
    return float32(plane[0, 0]) if is_flat(plane) else plane


class Step(Node):
    """A node that changes what lies below it."""

    is_step = True

    def __init__(self, own: bytes, below: Node) -> None:
        super().__init__(own)
        self.below = below
        self.space = below.space

    @abstractmethod
    def over(self, reader: Reader, px: Planes, rect: Rect) -> Planes:
        """The state after this step, from `px`, the state below over `rect`; `px` may be written."""

    @abstractmethod
    def inputs(self, reader: Reader, tx: int, ty: int) -> bytes:
        """A digest of the step and of every input but the pixels straight below."""

    def key_over(self, reader: Reader, tx: int, ty: int, below: bytes) -> bytes:
        """The key of a tile, from that of what lies straight below."""
        return digest(self.inputs(reader, tx, ty), below)

    def merged(self, following: Step) -> Step | None:
        """One step that does what this one and the one straight above it do, where there is such."""
        return None

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return reader.key(self, tx, ty)

    def _run(self) -> tuple[Node, list[Step]]:
        """The nearest kept node below, and the steps from there up to this one, merged where they can be."""
        chain: list[Step] = []
        node: Node = self
        while isinstance(node, Step) and (node is self or not node.kept):
            chain.append(node)
            node = node.below
        run = [chain.pop()]
        while chain:
            step = chain.pop()
            both = run[-1].merged(step)
            if both is None:
                run.append(step)
            else:
                run[-1] = both
        return node, run

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        start, run = self._run()
        reader.counts["steps"] += len(run)
        reader.counts["pixels"] += len(run) * rect.w * rect.h
        px = reader.read(start, rect)
        before = reader.at_hand()
        for step in run:
            reader.hold((step.below, rect, px))
            px = step.over(reader, px, rect)
        reader.hold(before)
        return px


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
    level: int
    trail: Trail | None = None
    passing: bool = False
    counts: Counter[str] = field(default_factory=Counter)
    _hand: local = field(default_factory=local)

    @property
    def bounds(self) -> Rect:
        return self.canvas.at(self.level)

    def on(self, canvas: Canvas, level: int) -> Reader:
        """A reader of what lies on another canvas, for a node that shows it in its own way."""
        same = canvas == self.canvas and level == self.level
        return self if same else replace(self, canvas=canvas, level=level)

    @property
    def step(self) -> float:
        """Full-size pixels to a pixel of this level."""
        return float(1 << self.level)

    def patch(self, rect: Rect) -> Patch:
        return Patch(rect, self.level, *self.canvas)

    def cover(self, stroke: Stroke, patch: Patch) -> Plane:
        """S of a stroke; of the one being drawn only what is new is drawn."""
        if self.trail is not None and stroke.digest == self.trail.stroke.digest:
            return self.trail.cover(patch)
        return coverage(stroke, patch)

    def _keeps(self, node: Node) -> bool:
        return node.kept and not (self.passing and node.fleeting)

    def place(self, tx: int, ty: int) -> bytes:
        """Which tile of which level of a picture of which size, made by which code, for keys."""
        return MEANING + pack("<5i", *self.canvas, self.level, tx, ty)

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
        if self._keeps(node) and not isinstance(node, PlaneNode):
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
        return np.asarray(self.read(node, rect)[0])

    def read(self, node: Node, rect: Rect) -> Planes:
        """(channels, h, w) of a rectangle inside the picture: a new array, the caller's to write."""
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
