"""Nodes: the states of a picture, of a mask, of a painting, each a function of those below it."""

from __future__ import annotations

from abc import ABC, abstractmethod
from typing import TYPE_CHECKING, Protocol

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.shapes import is_flat
from glyptic.pixels.spaces import Space

if TYPE_CHECKING:
    from glyptic.engine.reader import Reader

Spot = tuple[int, int, float, int, int]
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
    fleeting: whether its tiles, though kept, are not worth keeping where each is wanted but once. between: whether they
    are kept at levels between whole ones.
    """

    space: Space
    """The working space of its colours; none of one plane."""
    channels = 3
    is_step = False
    durable = False
    fleeting = False
    between = False

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

    def _run(self, reader: Reader, rect: Rect) -> tuple[Node, list[Step]]:
        """The nearest node below that is kept or at hand, and the steps from there to this one, merged where may be."""
        chain: list[Step] = []
        node: Node = self
        while isinstance(node, Step) and (node is self or not reader.starts_from(node, rect)):
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
        start, run = self._run(reader, rect)
        reader.counts["steps"] += len(run)
        reader.counts["pixels"] += len(run) * rect.w * rect.h
        px = reader.read(start, rect)
        before = reader.at_hand()
        for step in run:
            reader.hold((step.below, rect, px))
            px = step.over(reader, px, rect)
        reader.hold(before)
        return px
