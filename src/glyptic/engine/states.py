"""Every state a picture goes through on its way up the stack, each worked out from the one before."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from glyptic.base.rectangles import Rect
from glyptic.document.values import Layer
from glyptic.engine.covering import clear
from glyptic.engine.nodes import Node, Step
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Planes


def colour(reader: Reader, node: Node, rect: Rect) -> Planes:
    """The colour (3, h, w) of a state, also inside an isolated group, where a state has an alpha besides."""
    return reader.read(node, rect)[:3]


@dataclass
class Ascent:
    """Goes through a row of layers once, over one rectangle."""

    plan: Plan
    reader: Reader
    rect: Rect

    def states(self, layers: tuple[Layer, ...], start: Node) -> Iterator[tuple[Layer, Planes, Planes]]:
        """(layer, what is below it, what is above it) of some layers over what they begin with; what is in a group
        before the group. Neither is to be written."""
        yield from self._through(layers, [self.reader.read(start, self.rect)])

    def _through(self, layers: tuple[Layer, ...], at: list[Planes]) -> Iterator[tuple[Layer, Planes, Planes]]:
        for layer in layers:
            below = at[0]
            inner = [clear(below) if layer.mode == "isolated" else below]
            yield from self._through(layer.layers, inner)
            at[0] = self._above(layer, below, inner[0])
            yield layer, below[:3], below[:3] if at[0] is below else at[0][:3]

    def _above(self, layer: Layer, below: Planes, inner: Planes) -> Planes:
        """The state after a layer; inner: after the layers in it, for a group."""
        node = self.plan.above[layer.id]
        if node is self.plan.below[layer.id] or not isinstance(node, Step):
            return below
        px = inner.copy()
        before = self.reader.at_hand()
        self.reader.hold((node.below, self.rect, inner))
        above = node.over(self.reader, px, self.rect)
        self.reader.hold(before)
        return above
