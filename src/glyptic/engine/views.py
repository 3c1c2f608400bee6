"""The views: what the canvas shows of a plan, each a node like any other."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.maps import Change, Clipping, LighterDarker, OnlyClipped, Tone
from glyptic.engine.nodes import Node
from glyptic.engine.paintings import Blank
from glyptic.engine.plan import Plan
from glyptic.engine.printed import AsPrinted, Press
from glyptic.engine.reader import Reader
from glyptic.engine.steps import OneChannel
from glyptic.pixels.compiled import Planes

HATCH_SPACING = 11


class Hatch(NamedTuple):
    """How a mask is drawn over the picture: encoded colour 0..1, and how strongly the lines cover, 0..1."""

    colour: tuple[float, float, float]
    strength: float


HATCH = Hatch((0x1F / 255, 0x6F / 255, 0x60 / 255), 0.85)


class Dress(NamedTuple):
    """What a view is drawn with besides the plan: the hatch; what the picture is compared with, None for the base;
    the press that is proofed."""

    hatch: Hatch = HATCH
    against: Node | None = None
    press: Press | None = None


class Hatched(Node):
    """The finished picture with an engraver's hatch over what a mask hides: the more hidden, the broader the line."""

    def __init__(self, picture: Node, mask: Node, hatch: Hatch) -> None:
        super().__init__(digest("hatched", HATCH_SPACING, *hatch.colour, hatch.strength))
        self.picture = picture
        self.mask = mask
        self.hatch = hatch
        self.space = picture.space

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.picture, tx, ty), reader.key(self.mask, tx, ty))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = reader.read(self.picture, rect)
        hidden = 1 - reader.read(self.mask, rect)[0]
        x = np.arange(rect.x, rect.right)[None, :]
        y = np.arange(rect.y, rect.bottom)[:, None]
        across = (x + y) % HATCH_SPACING
        width = hidden * (HATCH_SPACING * 0.42)
        line = np.clip(width - np.abs(across - HATCH_SPACING / 2 + 0.5) * 2 + 0.5, 0, 1) * np.minimum(1, hidden * 2)
        for c in range(3):
            px[c] += line * float32(self.hatch.strength) * (float32(self.hatch.colour[c]) - px[c])
        return px


class Edged(Node):
    """The finished picture with the mask's edge, where it passes 50 %, as a line: white inside it, black outside."""

    def __init__(self, picture: Node, mask: Node) -> None:
        super().__init__(digest("edged"))
        self.picture = picture
        self.mask = mask
        self.space = picture.space

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, reader.key(self.picture, tx, ty), reader.keys_around(self.mask, tx, ty, 1))

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = reader.read(self.picture, rect)
        shown = reader.read_around(self.mask, rect.grown(1))[0] >= float32(0.5)
        here, beside = shown[1:-1, 1:-1], (shown[:-2, 1:-1], shown[2:, 1:-1], shown[1:-1, :-2], shown[1:-1, 2:])
        at_edge = np.logical_or.reduce([other != here for other in beside])
        px[:, at_edge & here] = 1
        px[:, at_edge & ~here] = 0
        return px


@dataclass(frozen=True)
class View:
    """A view. family: where the page offers it, '' for nowhere; short: its word beside the others of its family.
    needs: '' or what the chosen layer must have, 'mask' or 'painting'. hatched: depends on the hatch."""

    name: str
    title: str
    help: str
    node: Callable[[Plan, str, Dress], Node]
    family: str = ""
    needs: str = ""
    short: str = ""
    hatched: bool = False
    compares: bool = False
    """Depends on what the picture is compared with."""
    printed: bool = False
    """Depends on the press that is proofed."""
    unframed: bool = False
    """Shows the picture as if there were no frame."""
    exact: bool = False
    """At rest it is made of full-size pixels: nothing in it is drawn for the screen's own."""

    @property
    def listed(self) -> bool:
        """Whether the page offers it; the others are shown while something is dragged."""
        return bool(self.family)


def _mask(plan: Plan, layer: str) -> Node:
    """A layer's mask as it comes out; around the picture nothing is hidden."""
    return plan.seen(layer, plan.masks.get(layer) or Blank(1.0), 1.0)


def _above(plan: Plan, layer: str) -> Node:
    return plan.seen(layer, plan.above[layer]) if layer in plan.above else plan.finished


def _painting(plan: Plan, layer: str) -> Node:
    """A grey layer's painting as it comes out, neutral around the picture."""
    return plan.seen(layer, plan.paintings.get(layer) or Blank(0.5), 0.5)


def _change(plan: Plan, dress: Dress, measure: str) -> Node:
    return Change(plan.finished, dress.against or plan.before, measure)


FAMILIES = {"picture": "The picture", "done": "What was done", "mask": "The mask", "painting": "The painting"}
"""The families of views by name, in the order of the page."""

VIEWS = {
    view.name: view
    for view in (
        View("finished", "Finished", "The picture as it will be exported.",
             lambda plan, layer, dress: plan.finished, "picture", exact=True),
        View("before", "Before", "As it was opened. Hold H for a moment's look.",
             lambda plan, layer, dress: plan.before, "picture"),
        View("split", "Split", "On one side of a line the picture, on the other what it is compared with (B).",
             lambda plan, layer, dress: plan.finished, "picture"),
        View("printed", "As printed", "As a press would print it, with marks where it cannot hold the colours.",
             lambda plan, layer, dress: AsPrinted(plan.finished, dress.press) if dress.press else plan.finished,
             "picture", short="Printed", printed=True),
        View("tone", "Tone", "Nothing but tone: the grey of each pixel's L*.",
             lambda plan, layer, dress: Tone(plan.finished), "done"),
        View("change", "Change", "How much and where the picture differs from what Split compares with (the base).",
             lambda plan, layer, dress: _change(plan, dress, "apart"), "done", compares=True),
        View("change-stops", "Change in stops", "As Change, measured in stops.",
             lambda plan, layer, dress: _change(plan, dress, "stops"), compares=True),
        View("clipping", "Clipping", "Where no detail is left: blown warm, blocked blue. Zoom in for single specks.",
             lambda plan, layer, dress: Clipping(plan.finished), "done", exact=True),
        View("mask-alone", "Mask alone", "The chosen layer's mask: white shows, black hides.",
             lambda plan, layer, dress: OneChannel(_mask(plan, layer)), "mask", "mask"),
        View("mask-over", "Mask over", "The picture, hatched where the chosen layer's mask hides it.",
             lambda plan, layer, dress: Hatched(plan.finished, _mask(plan, layer), dress.hatch), "mask", "mask", "over",
             hatched=True),
        View("mask-edge", "Mask edge", "The picture, with the edge of the chosen layer's mask as a line.",
             lambda plan, layer, dress: Edged(plan.finished, _mask(plan, layer)), "mask", "mask", "edge"),
        View("grey-alone", "Grey alone", "The chosen grey layer's painting by itself.",
             lambda plan, layer, dress: OneChannel(_painting(plan, layer)), "painting", "painting"),
        View("lighter-darker", "Light map", "Where the chosen grey layer lightens (amber) and darkens (blue).",
             lambda plan, layer, dress: LighterDarker(plan.finished, _painting(plan, layer)), "painting", "painting",
             "light map"),
        View("unframed", "Whole picture", "The picture without its frame, for the frame to be drawn on.",
             lambda plan, layer, dress: plan.finished, unframed=True),
        View("only-clipped", "Only clipped", "Nothing but the pixels that the chosen layer leaves clipped.",
             lambda plan, layer, dress: OnlyClipped(_above(plan, layer))),
    )
}  # fmt: skip
