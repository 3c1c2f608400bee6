"""The plan: a document turned into nodes. Layers that do nothing leave no trace in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from glyptic.adjust import KINDS
from glyptic.adjust.grey import NEUTRAL
from glyptic.adjust.kind import Neighbourhood, PointWise
from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Canvas
from glyptic.blend import NEUTRAL_MODES
from glyptic.brush.coverage import Trail
from glyptic.document.values import FRAME, Frame, Layer, Place, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.covering import Clear, CoveringFill, CoveringPicture, IsolatedStep
from glyptic.engine.framed import Framed, Geometry
from glyptic.engine.masks import Making, Sources, looks_around, looks_below
from glyptic.engine.nodes import Node, PlaneNode
from glyptic.engine.paintings import Blank, Chains
from glyptic.engine.reader import Reader
from glyptic.engine.steps import Base, BaseAlpha, GreyStep, GroupStep, NeighbourhoodStep, PlacedStep, pointwise_step
from glyptic.engine.surroundings import Surroundings
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.spaces import SPACES, Space

AT_REST = 1
"""Levels finer than need be, of which a framed picture that stays still is made."""


@dataclass
class Plan:
    """The nodes of a document: the finished picture; per layer what is below and above it, its mask, its painting."""

    base: Base
    finished: Node
    frame: Geometry | None = None
    """How the picture is carried onto the sheet, where there is a frame at work."""
    before: Node = field(init=False)
    """The base as it comes out: framed, where there is a frame."""
    alpha: Node | None = field(init=False, default=None)
    """The base's alpha as it comes out, where it has any."""
    on_sheet: set[str] = field(default_factory=set)
    """Layers over the sheet, by id."""
    layers: dict[str, Layer] = field(default_factory=dict)
    below: dict[str, Node] = field(default_factory=dict)
    above: dict[str, Node] = field(default_factory=dict)
    masks: dict[str, PlaneNode] = field(default_factory=dict)
    paintings: dict[str, PlaneNode] = field(default_factory=dict)
    framed: Framed | None = None
    """What the sheet's layers lie on."""
    strokes: dict[str, list[PlaneNode]] = field(default_factory=dict)
    """Every painting that is read, by its layer: the grey layers' and those of masks."""
    working: Node | None = None
    """What lies below the layer that is worked on: it is kept in tiles."""
    passing: bool = False
    """Whether it is made for a moment only, while a stroke is drawn."""
    finer: int = 0
    """See Geometry."""
    surroundings: dict[str, Surroundings] = field(default_factory=dict)
    """Of neighbourhood layers, in the order of the stack: each looks at what the ones before it helped to make."""

    _views: dict[tuple[str, str], Node] = field(default_factory=dict)
    _seen: dict[int, Node] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.before = self.base

    def reader(self, cache: TileCache, level: float, trail: Trail | None = None, passing: bool = False) -> Reader:
        """A reader of what comes out, at a level."""
        return Reader(cache, self.outer, level, trail, passing, working=self.working)

    def reader_of(self, layer: str, cache: TileCache, level: float) -> Reader:
        """A reader of what a layer lies on: its mask, its painting, what is below and above it."""
        return Reader(cache, self.canvas_of(layer), level, working=self.working)

    def work_on(self, layer: str) -> None:
        """Keep what lies below a layer, if there is such a layer."""
        self.working = self.below.get(layer, self.working)

    def canvas_of(self, layer: str) -> Canvas:
        """What a layer lies on, in whose pixels its places are: the base picture, or the sheet."""
        return self.outer if layer in self.on_sheet else self.inner

    def seen(self, layer: str, node: Node, beyond: float | None = None) -> Node:
        """A node of what a layer lies on, as it comes out: framed, where the layer is framed. beyond: the value of what
        lies around it; the frame's own colours unless said."""
        if self.frame is None or layer in self.on_sheet:
            return node
        return self._seen.get(id(node)) or self._seen.setdefault(id(node), self._framed(self.frame, node, beyond))

    def _framed(self, frame: Geometry, node: Node, beyond: float | None) -> Node:
        if beyond is None:
            outside, border = frame.frame.colours
            opaque = (1.0,) * (node.channels - len(outside))
            return Framed(node, frame, ((*outside, *opaque), (*border, *opaque)), not self.passing)
        flat = (beyond,) * node.channels
        return Framed(node, frame, (flat, flat), not self.passing)

    @property
    def inner(self) -> Canvas:
        """What the picture's layers lie on: the base picture's size, in whose pixels their places are."""
        return self.picture.canvas

    @property
    def outer(self) -> Canvas:
        """What comes out in the end."""
        return self.inner if self.frame is None else self.frame.outer

    def take(self, other: Plan, layer: Layer) -> None:
        """Take what another plan has of a layer."""
        self.layers[layer.id] = layer
        for mine, theirs in (
            (self.below, other.below), (self.above, other.above), (self.masks, other.masks),
            (self.paintings, other.paintings), (self.strokes, other.strokes), (self.surroundings, other.surroundings),
        ):  # fmt: skip
            if layer.id in theirs:
                mine[layer.id] = theirs[layer.id]  # type: ignore[assignment]

    def view(self, name: str, layer: str, make: Callable[[], Node]) -> Node:
        """The node of a view of a layer, made once."""
        found = self._views.get((name, layer))
        return found or self._views.setdefault((name, layer), make())

    @property
    def painted(self) -> list[PlaneNode]:
        """Every painting that is read of the picture's layers."""
        return [node for layer, nodes in self.strokes.items() if layer not in self.on_sheet for node in nodes]

    @property
    def painted_over(self) -> list[PlaneNode]:
        """The same, of the layers over the sheet."""
        return [node for layer, nodes in self.strokes.items() if layer in self.on_sheet for node in nodes]

    @property
    def every_painting(self) -> list[tuple[Canvas, list[PlaneNode]]]:
        """Everything painted that is read, by what it lies on."""
        return [(self.inner, self.painted), (self.outer, self.painted_over)]

    @property
    def weight(self) -> int:
        """About how many bytes its own nodes remember; those of paintings are shared, and counted where they are."""
        nodes = (*self.above.values(), *self.masks.values(), *self._views.values(), *self._seen.values())
        own = {id(node): node for node in nodes}
        return sum(node.weight for node in own.values())

    @property
    def picture(self) -> Picture:
        return self.base.picture

    @property
    def space(self) -> Space:
        """The working space."""
        return self.base.space


def make_plan(
    stack: Stack,
    sources: Sources,
    chains: Chains | None = None,
    still: Plan | None = None,
    drawn: str = "",
    finer: int = 0,
) -> Plan:
    """The plan of a stack.

    sources: gives the decoded picture of a `source`. chains: the nodes of paintings to share with other plans.
    still: a plan made before: its nodes are used again where they are the very same. While a stroke is drawn on the
    layer `drawn`, what looks around itself is that of the plan before too: it is held still and settles when the hand
    rests. finer: levels by which what is framed and zoomed out is made of a finer picture: AT_REST, as a still picture
    is shown.
    """
    picture = sources(*stack.base.picture)
    space = SPACES[stack.working_space]
    if still is not None and (still.picture is not picture or still.space is not space):
        still = None
    base = still.base if still is not None else Base(picture, space)
    plan = Plan(base, base, passing=bool(drawn), finer=finer)
    plan.below[stack.base.id] = plan.above[stack.base.id] = base
    making = Making(base, sources, chains or Chains())
    plan.finished = _Maker(plan, making, still, drawn, plan.inner).through(stack.layers[1:], base)
    if picture.alpha is not None:
        plan.alpha = BaseAlpha(picture)
    if stack.frame is not None and stack.frame.enabled:
        _lay_sheet(plan, stack.frame, making, still, drawn)
    return plan


def _lay_sheet(plan: Plan, frame: Frame, making: Making, still: Plan | None, drawn: str) -> None:
    """Carry what was planned onto the sheet, and plan what lies over that."""
    plan.frame = Geometry(frame, plan.inner, plan.finer)
    plan.before = plan.seen(FRAME, plan.base)
    if plan.alpha is not None:
        plan.alpha = plan.seen(FRAME, plan.alpha, 1.0)
    start = plan.seen(FRAME, plan.finished)
    if still is not None and (still.frame is None or not still.frame.is_like(plan.frame)):
        still = None
    if still is not None and still.framed is not None and still.framed.inner is plan.finished:
        start = still.framed
    plan.framed = start if isinstance(start, Framed) else None
    plan.below[FRAME], plan.above[FRAME] = plan.finished, start
    plan.on_sheet = {layer.id for layer in Stack(frame.layers).walk()}
    over = replace(making, base=plan.before)
    plan.finished = _Maker(plan, over, still, drawn, plan.outer).through(frame.layers, start)


@dataclass
class _Maker:
    plan: Plan
    making: Making
    still: Plan | None
    drawn: str
    canvas: Canvas

    def through(self, layers: tuple[Layer, ...], node: Node) -> Node:
        for layer in layers:
            node = self.plan.above[layer.id] = self.as_before(layer, node) or self.after(layer, node)
        return node

    def as_before(self, layer: Layer, below: Node) -> Node | None:
        """The node of a layer that is the very same as in the plan held still, on the very same node."""
        still, plan = self.still, self.plan
        if (
            still is None
            or still.layers.get(layer.id) is not layer
            or still.below[layer.id] is not below
            or not all(self.links_as_in(still, one, layer) for one in Stack((layer,)).walk())
        ):
            return None
        for one in Stack((layer,)).walk():
            plan.take(still, one)
        return still.above[layer.id]

    def links_as_in(self, still: Plan, layer: Layer, within: Layer) -> bool:
        """Whether what a layer's mask is linked to is what it was: also where that lies in the same group."""
        if layer.mask is None or any(one.id == layer.mask.linked for one in Stack((within,)).walk()):
            return True
        return self.linked(layer) is still.masks.get(layer.mask.linked)

    def mask(self, layer: Layer, below: Node) -> PlaneNode | None:
        still = self.still
        if still is not None and layer.id != self.drawn and self.has_mask_of(still, layer):
            self.plan.strokes[layer.id] = list(still.strokes.get(layer.id, ()))
            return still.masks.get(layer.id)
        node, painted = self.making.mask(layer.mask, below, self.linked(layer))
        self.plan.strokes[layer.id] = painted
        return node

    def has_mask_of(self, still: Plan, layer: Layer) -> bool:
        """Whether a layer's mask is that of the plan held still: it is while it looks around itself, and it is the very
        same where it does not look at what is below."""
        before = still.layers.get(layer.id)
        if before is None or before.mask is not layer.mask or layer.mask is None:
            return False
        same_link = self.linked(layer) is still.masks.get(layer.mask.linked)
        held = bool(self.drawn) and looks_around(layer.mask)
        return held or (same_link and not looks_below(layer.mask))

    def linked(self, layer: Layer) -> PlaneNode | None:
        """The mask that a layer's mask begins with; None where there is none, or the other layer shows everywhere."""
        return self.plan.masks.get(layer.mask.linked) if layer.mask is not None else None

    def surroundings(self, kind: Neighbourhood, layer: Layer, below: Node) -> Surroundings:
        held = self.still.surroundings.get(layer.id) if self.still is not None and self.drawn else None
        return held or Surroundings(kind, layer.settings, below)

    def after(self, layer: Layer, below: Node) -> Node:
        self.plan.below[layer.id], self.plan.layers[layer.id] = below, layer
        mask = self.mask(layer, below)
        if mask is not None:
            self.plan.masks[layer.id] = mask
        if layer.kind == "grey":
            painting = self.plan.paintings[layer.id] = self.making.chains.painting(NEUTRAL, layer.strokes)
            self.plan.strokes[layer.id].append(painting)
        if layer.kind == "group":
            isolated = layer.mode == "isolated"
            start = Clear(below) if isolated else below
            inner = self.through(layer.layers, start)
            if not layer.visible or layer.opacity == 0 or inner is start:
                return below
            return (IsolatedStep if isolated else GroupStep)(layer, inner, below, mask)
        if not layer.visible or layer.opacity == 0:
            return below
        return self.step(layer, below, mask)

    def step(self, layer: Layer, below: Node, mask: PlaneNode | None) -> Node:
        kind = KINDS[layer.kind]
        if layer.kind == "picture":
            picture = self.making.sources(*layer.picture)
            where = layer.place or Place(self.canvas.width / 2, self.canvas.height / 2)
            step = CoveringPicture if below.channels == 4 else PlacedStep
            return step(layer, picture, where, below, mask)
        if layer.kind == "grey":
            painting = self.plan.paintings[layer.id]
            if isinstance(painting, Blank) and layer.blend in NEUTRAL_MODES:
                return below
            return GreyStep(layer, below, mask, painting)
        if layer.blend == "normal" and kind.is_neutral(layer.settings):
            return below
        if isinstance(kind, PointWise):
            make = CoveringFill if kind.covers and below.channels == 4 else pointwise_step
            return make(kind, layer, below, mask)
        if isinstance(kind, Neighbourhood):
            surroundings = self.plan.surroundings[layer.id] = self.surroundings(kind, layer, below)
            return NeighbourhoodStep(layer, surroundings, below, mask)
        raise TypeError(f"{layer.kind} cannot be drawn")


def until(stack: Stack, layer_id: str) -> Stack:
    """The stack up to and including a layer; inside a group, that group's layers up to it and then the group."""

    def cut(layers: tuple[Layer, ...]) -> tuple[Layer, ...] | None:
        for i, layer in enumerate(layers):
            if layer.id == layer_id:
                return layers[: i + 1]
            inner = cut(layer.layers)
            if inner is not None:
                return (*layers[:i], replace(layer, layers=inner))
        return None

    kept = cut(stack.layers)
    if kept is not None:
        return replace(stack, layers=kept, frame=stack.frame and replace(stack.frame, layers=()))
    over = cut(stack.sheet_layers)
    if over is None or stack.frame is None:
        raise DocumentError([Fault("until", f"no layer has the id {layer_id!r}")])
    return replace(stack, frame=replace(stack.frame, layers=over))
