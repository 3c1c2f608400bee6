"""Nodes of masks: parts, their combination, feather and density (computation.md, Mask)."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy import float32

from glyptic.adjust.blur import BLUR
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.document.values import Mask, Part
from glyptic.engine.nodes import Node, PlaneNode, flat_or_plane
from glyptic.engine.paintings import Blank, Chains
from glyptic.engine.reader import Reader
from glyptic.engine.surroundings import Surroundings
from glyptic.engine.whole_masks import Grown, Moved, Thinned
from glyptic.masks import PARTS, whole
from glyptic.masks.part import Drawn, Looked, PartKind, Pictured
from glyptic.params import Values
from glyptic.pixels.compiled import Plane
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.shapes import NOTHING
from glyptic.pixels.vector import ONE

Flat = float32
"""The one value of a plane that has no other."""


class Covered(PlaneNode):
    """The coverage of one part before its feather."""

    def __init__(self, kind: PartKind, settings: Values, looks_at: Node | None, picture: Picture | None) -> None:
        key = picture.key if picture is not None else b""
        super().__init__(digest("part", kind.name, kind.schema.digest(settings), key))
        self.kind = kind
        self.settings = settings
        self.looks_at = looks_at
        self.picture = picture

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        seen = reader.key(self.looks_at, tx, ty) if self.looks_at is not None else b""
        return digest(self.own, reader.place(tx, ty), seen)

    def plane(self, reader: Reader, rect: Rect) -> Plane | Flat:
        return flat_or_plane(self._coverage(reader, rect))

    def known(self, reader: Reader, rect: Rect) -> float | None:
        kind = self.kind
        if isinstance(kind, Drawn):
            return kind.known(self.settings, reader.patch(rect))
        if isinstance(kind, Pictured) and self.picture is not None:
            return kind.known_from(self.settings, self.picture, reader.patch(rect))
        return None

    def _coverage(self, reader: Reader, rect: Rect) -> Plane:
        kind, patch = self.kind, reader.patch(rect)
        if isinstance(kind, Drawn):
            return kind.coverage(self.settings, patch)
        if isinstance(kind, Looked) and self.looks_at is not None:
            return kind.coverage_of(self.settings, reader.view(self.looks_at, rect), self.looks_at.space)
        if isinstance(kind, Pictured) and self.picture is not None:
            return kind.coverage_from(self.settings, self.picture, patch)
        raise TypeError(f"{kind.name} has no coverage")


class Feathered(PlaneNode):
    """The Gaussian of a plane; sigma in full-size pixels."""

    def __init__(self, plane: PlaneNode, sigma: float) -> None:
        super().__init__(digest("feather", sigma))
        self.kept = True
        self.plane_below = plane
        self._soft = Surroundings(BLUR, Values({"sigma": sigma}), plane)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self._soft, tx, ty))

    def plane(self, reader: Reader, rect: Rect) -> Plane | Flat:
        return flat_or_plane(self._soft.evaluate(reader, rect)[0])

    def known(self, reader: Reader, rect: Rect) -> float | None:
        """Of nothing all around comes nothing; of anything else what rounding makes of it."""
        around = self.plane_below.known(reader, reader.within(self._soft.basis(reader, rect)))
        return around if around == 0 else None


def _show(m: Plane | Flat, p: Plane | Flat) -> Plane | Flat:
    if np.ndim(m) == 0 and m == NOTHING:
        return p
    return m + p * (ONE - m)


def _hide(m: Plane | Flat, p: Plane | Flat) -> Plane | Flat:
    return m * (ONE - p)


def _keep(m: Plane | Flat, p: Plane | Flat) -> Plane | Flat:
    if np.ndim(m) == 0 and m == ONE:
        return p
    return m * p


def _replace(m: Plane | Flat, p: Plane | Flat) -> Plane | Flat:
    return p


LEAVES = {("show", 1.0): 1.0, ("hide", 1.0): 0.0, ("keep", 0.0): 0.0}
"""What a part of one value leaves of any mask: all of it shown, or nothing."""
RULES: dict[str, Callable[[Plane | Flat, Plane | Flat], Plane | Flat]] = {
    "show": _show, "hide": _hide, "keep": _keep, "replace": _replace,
}  # fmt: skip


@dataclass(frozen=True)
class Covering:
    """A part that is combined by a rule."""

    node: PlaneNode
    op: str
    invert: bool
    looks_below: bool = False

    @property
    def nodes(self) -> tuple[PlaneNode, ...]:
        return (self.node,)

    @property
    def signature(self) -> str:
        return f"{self.op} {self.invert}"

    def onto(self, m: Plane | Flat, reader: Reader, rect: Rect) -> Plane | Flat:
        if _changes_nothing(self.op, m):
            return m
        p = reader.plane(self.node, rect)
        return RULES[self.op](m, ONE - p if self.invert else p)

    def known_onto(self, m: float | None, reader: Reader, rect: Rect) -> float | None:
        """The one value it leaves of a mask that has one all over a rectangle, or of any; None where it may not."""
        if m is not None and _changes_nothing(self.op, float32(m)):
            return m
        p = self.node.known(reader, rect)
        if p is None:
            return None
        p = 1 - p if self.invert else p
        if m is None:
            return p if self.op == "replace" else LEAVES.get((self.op, p))
        return float(RULES[self.op](float32(m), float32(p)))


def _changes_nothing(op: str, m: Plane | Flat) -> bool:
    """Whether a part need not be looked at: nothing is shown more than all, or hidden more than nothing."""
    return op != "replace" and np.ndim(m) == 0 and bool(m == (ONE if op == "show" else NOTHING))


@dataclass(frozen=True)
class Painted:
    """A paint part. What strokes make of a mask is affine in what was there before, so the strokes are run once
    from 0 and once from 1, each cached whatever lies before them, and the mask before chooses between the two."""

    from_closed: PlaneNode
    from_open: PlaneNode
    signature: str = "paint"
    looks_below: bool = False

    @property
    def nodes(self) -> tuple[PlaneNode, ...]:
        return self.from_closed, self.from_open

    def read_over(self, start: float, first: bool) -> tuple[PlaneNode, ...]:
        """The nodes that are read where this part comes first over a start, or later."""
        if not first:
            return self.nodes
        return (self.from_open if start == 1.0 else self.from_closed,)

    def onto(self, m: Plane | Flat, reader: Reader, rect: Rect) -> Plane | Flat:
        low, high = float(np.min(m)), float(np.max(m))
        if low == high == 0.0:
            return reader.plane(self.from_closed, rect)
        if low == high == 1.0:
            return reader.plane(self.from_open, rect)
        closed, opened = reader.plane(self.from_closed, rect), reader.plane(self.from_open, rect)
        mixed = np.asarray(np.where(m == 1, opened, closed + m * (opened - closed)), float32)
        return mixed if mixed.ndim else float32(mixed)

    def known_onto(self, m: float | None, reader: Reader, rect: Rect) -> float | None:
        """As Covering's."""
        if m in (0.0, 1.0):
            return (self.from_open if m else self.from_closed).known(reader, rect)
        closed, opened = self.from_closed.known(reader, rect), self.from_open.known(reader, rect)
        return closed if closed == opened else None


class Combined(PlaneNode):
    """Start (a value, or another mask), then the parts in order, then invert. Kept where it depends on nothing that is
    painted or adjusted further down."""

    fleeting = True

    def __init__(self, start: float | PlaneNode, parts: tuple[Covering | Painted, ...], invert: bool) -> None:
        self.under = start if isinstance(start, PlaneNode) else Blank(start)
        super().__init__(digest("mask", invert, *(part.signature for part in parts)))
        self.start = start
        self.parts = parts
        self.invert = invert
        self.kept = not any(part.looks_below for part in parts) and (self.under.kept or isinstance(self.under, Blank))

    @property
    def paintings(self) -> Iterator[PlaneNode]:
        """What was painted, of that which is read."""
        for i, part in enumerate(self.parts):
            if isinstance(part, Painted):
                first = i == 0 and not isinstance(self.start, PlaneNode)
                yield from part.read_over(0.0 if isinstance(self.start, PlaneNode) else self.start, first)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        inputs = [reader.key(node, tx, ty) for part in self.parts for node in part.nodes]
        return digest(self.own, reader.key(self.under, tx, ty), *inputs)

    def plane(self, reader: Reader, rect: Rect) -> Plane | Flat:
        m = reader.plane(self.under, rect)
        for part in self.parts:
            m = part.onto(m, reader, rect)
        return ONE - m if self.invert else m

    def known(self, reader: Reader, rect: Rect) -> float | None:
        m = self.under.known(reader, rect)
        for part in self.parts:
            m = part.known_onto(m, reader, rect)
        return m if m is None or not self.invert else 1 - m


Sources = Callable[..., Picture]
"""Gives a picture in the working space, asked for by `Layer.picture`."""


@dataclass(frozen=True)
class Making:
    """What the nodes of a plan are made with: the base, the pictures by their source, the paintings' shared nodes."""

    base: Node
    sources: Sources
    chains: Chains

    def part(self, part: Part, feathered: bool, below: Node) -> Covering | Painted:
        kind = PARTS[part.kind]
        if kind.carries == "strokes":
            return Painted(self.chains.painting(0.0, part.strokes), self.chains.painting(1.0, part.strokes))
        looks_at = None
        if isinstance(kind, Looked):
            looks_at = below if part.settings["of"] == "below" else self.base
            if feathered and looks_at is below:
                looks_at.watch()
        picture = self.sources(part.settings["source"]) if isinstance(kind, Pictured) else None
        node: PlaneNode = Covered(kind, part.settings, looks_at, picture)
        if part.feather > 0:
            node = Feathered(node, part.feather)
        return Covering(node, part.op, part.invert, looks_at is below)

    def mask(
        self, mask: Mask | None, below: Node, linked: PlaneNode | None = None
    ) -> tuple[PlaneNode | None, list[PlaneNode]]:
        """The node of a layer's mask, or None where it shows everything; and what is painted of it. linked: that of the
        mask it is linked to."""
        if mask is None or not mask.enabled:
            return None, []
        parts = tuple(
            self.part(part, mask.feather > 0 or part.feather > 0 or mask.grow != 0, below)
            for part in mask.parts
            if part.enabled
        )
        start: float | PlaneNode = 1.0 if mask.start == "open" else 0.0
        combined = Combined((linked or 1.0) if mask.linked else start, parts, mask.invert)
        node: PlaneNode = combined
        if mask.grow:
            node = Grown(node, mask.grow)
        if mask.feather > 0:
            node = Feathered(node, mask.feather)
        if whole.moved(mask) is not None:
            node = Moved(node, mask)
        return Thinned(node, mask.density) if mask.density != 1 else node, list(combined.paintings)


def _of_below(mask: Mask) -> Iterator[Part]:
    """The parts that look at what is below the layer."""
    for part in mask.parts:
        if part.enabled and isinstance(PARTS[part.kind], Looked) and part.settings["of"] == "below":
            yield part


def looks_below(mask: Mask) -> bool:
    """Whether a mask depends on what is below the layer."""
    return any(True for _ in _of_below(mask))


def looks_around(mask: Mask) -> bool:
    """Whether a mask at a pixel depends on what is below the layer around it."""
    return any(mask.feather or part.feather or mask.grow for part in _of_below(mask))
