"""Nodes of masks: parts, their combination, feather and density (computation.md, Mask)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from glyptic.base.digests import digest, digest_plain
from glyptic.base.rectangles import Rect
from glyptic.document.values import Mask, Part
from glyptic.engine.paintings import painting_node
from glyptic.engine.reader import Node, Reader
from glyptic.masks import PARTS
from glyptic.masks.part import Drawn, Looked, PartKind, Pictured
from glyptic.params import Values
from glyptic.pixels import gaussian
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.pyramid import Picture


def as_planes(plane: Plane) -> Planes:
    """One plane as (1, h, w)."""
    return np.asarray(plane[None])


def only_plane(planes: Planes) -> Plane:
    """The plane of (1, h, w)."""
    return np.asarray(planes[0])


class Covered(Node):
    """The coverage of one part before its feather."""

    channels = 1

    def __init__(self, kind: PartKind, settings: Values, looks_at: Node | None, picture: Picture | None) -> None:
        key = picture.key if picture is not None else b""
        super().__init__(digest("part", kind.name, digest_plain(kind.schema.plain(settings)), key))
        self.kind = kind
        self.settings = settings
        self.looks_at = looks_at
        self.picture = picture

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        seen = reader.key(self.looks_at, tx, ty) if self.looks_at is not None else b""
        return digest(self.own, reader.place(tx, ty), seen)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        kind, frame = self.kind, reader.frame(rect)
        if isinstance(kind, Drawn):
            return as_planes(kind.coverage(self.settings, frame))
        if isinstance(kind, Looked) and self.looks_at is not None:
            return as_planes(kind.coverage_of(self.settings, reader.read(self.looks_at, rect)))
        if isinstance(kind, Pictured) and self.picture is not None:
            return as_planes(kind.coverage_from(self.picture, frame))
        raise TypeError(f"{kind.name} has no coverage")


class Feathered(Node):
    """The Gaussian of a plane; sigma in full-size pixels."""

    channels = 1

    def __init__(self, plane: Node, sigma: float) -> None:
        super().__init__(digest("feather", sigma), kept=True)
        plane.kept = True
        self.plane = plane
        self.sigma = sigma

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        margin = gaussian.reach(self.sigma / reader.step)
        return digest(self.own, reader.place(tx, ty), reader.keys_around(self.plane, tx, ty, margin))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        sigma = self.sigma / reader.step
        margin = gaussian.reach(sigma)
        px = reader.read_around(self.plane, rect.grown(margin))
        return gaussian.blur(px, rect.x - margin, rect.y - margin, sigma)


def _show(m: Plane, p: Plane) -> Plane:
    return m + p * (np.float32(1) - m)


def _hide(m: Plane, p: Plane) -> Plane:
    return m * (np.float32(1) - p)


def _keep(m: Plane, p: Plane) -> Plane:
    return m * p


RULES: dict[str, Callable[[Plane, Plane], Plane]] = {"show": _show, "hide": _hide, "keep": _keep}


@dataclass(frozen=True)
class Covering:
    """A part that is combined by a rule."""

    node: Node
    op: str
    invert: bool

    @property
    def nodes(self) -> tuple[Node, ...]:
        return (self.node,)

    @property
    def signature(self) -> str:
        return f"{self.op} {self.invert}"

    def onto(self, m: Plane, reader: Reader, rect: Rect) -> Plane:
        p = reader.read(self.node, rect)[0]
        return RULES[self.op](m, np.float32(1) - p if self.invert else p)


@dataclass(frozen=True)
class Painted:
    """A paint part. What strokes make of a mask is affine in what was there before, so the strokes are run once
    from 0 and once from 1, each cached whatever lies before them, and the mask before chooses between the two."""

    from_closed: Node
    from_open: Node
    signature: str = "paint"

    @property
    def nodes(self) -> tuple[Node, ...]:
        return self.from_closed, self.from_open

    def onto(self, m: Plane, reader: Reader, rect: Rect) -> Plane:
        low, high = float(m.min()), float(m.max())
        if low == high == 0.0:
            return only_plane(reader.read(self.from_closed, rect))
        if low == high == 1.0:
            return only_plane(reader.read(self.from_open, rect))
        closed, opened = reader.read(self.from_closed, rect)[0], reader.read(self.from_open, rect)[0]
        mixed = closed + m * (opened - closed)
        return np.asarray(np.where(m == 1, opened, mixed))


class Combined(Node):
    """Start, then the parts in order, then invert."""

    channels = 1

    def __init__(self, start: float, parts: tuple[Covering | Painted, ...], invert: bool) -> None:
        super().__init__(digest("mask", start, invert, *(part.signature for part in parts)))
        self.start = start
        self.parts = parts
        self.invert = invert

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        inputs = [reader.key(node, tx, ty) for part in self.parts for node in part.nodes]
        return digest(self.own, reader.place(tx, ty), *inputs)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        m = np.full((rect.h, rect.w), self.start, np.float32)
        for part in self.parts:
            m = part.onto(m, reader, rect)
        if self.invert:
            m = np.float32(1) - m
        return m[None]


class Thinned(Node):
    """Density: m = 1 − density · (1 − m)."""

    channels = 1

    def __init__(self, plane: Node, density: float) -> None:
        super().__init__(digest("density", density))
        self.plane = plane
        self.density = density

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.plane, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        one = np.float32(1)
        return np.asarray(one - np.float32(self.density) * (one - reader.read(self.plane, rect)), np.float32)


Sources = Callable[[str], Picture]


def _part(part: Part, below: Node, base: Node, sources: Sources) -> Covering | Painted:
    kind = PARTS[part.kind]
    if kind.carries == "strokes":
        return Painted(painting_node(0.0, part.strokes), painting_node(1.0, part.strokes))
    looks_at = None
    if isinstance(kind, Looked):
        looks_at = below if part.settings["of"] == "below" else base
        looks_at.kept = looks_at.kept or looks_at is below
    picture = sources(part.settings["source"]) if isinstance(kind, Pictured) else None
    node: Node = Covered(kind, part.settings, looks_at, picture)
    if part.feather > 0:
        node = Feathered(node, part.feather)
    return Covering(node, part.op, part.invert)


def mask_node(mask: Mask | None, below: Node, base: Node, sources: Sources) -> Node | None:
    """The node of a layer's mask, or None where it shows everything."""
    if mask is None or not mask.enabled:
        return None
    parts = tuple(_part(part, below, base, sources) for part in mask.parts)
    node: Node = Combined(1.0 if mask.start == "open" else 0.0, parts, mask.invert)
    if mask.feather > 0:
        node = Feathered(node, mask.feather)
    return Thinned(node, mask.density) if mask.density != 1 else node
