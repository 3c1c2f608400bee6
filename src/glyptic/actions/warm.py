"""Compile every kernel by rendering a small stack that uses all of them."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO

import numpy as np

from glyptic.adjust import KINDS
from glyptic.document.codec import parse_stack
from glyptic.document.values import FORMAT, VERSION, Stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import FORMATS, Metadata, Sheet
from glyptic.pixels.compiled import WHOLE
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.pixels.srgb import tone

SIDE = 64


def _at_once() -> None:
    """Nobody is at work whom loading could hold up."""


def warm(give_way: Callable[[], object] = _at_once) -> None:
    """Load every kernel from disk, or compile it.

    give_way: called between two kinds of layer; it may wait for a rest. Nobody waits for others where there is
    something to compile.
    """
    if not WHOLE.exists():
        give_way = _at_once
    tone(np.zeros((3, 2, 2), np.float32))
    ramp = np.linspace(0, 65535, 3 * SIDE * SIDE).astype(np.uint16).reshape(3, SIDE, SIDE)
    picture = Picture(Pyramid(ramp), b"warm", Pyramid(ramp[:1]))
    base, *layers = parse_stack(everything(), VOCABULARY).layers
    for layer in layers:
        give_way()
        plan = make_plan(Stack((base, layer)), lambda source: picture)
        for level, depth in ((0, 8), (1, 16)):
            render(plan, TileCache(), level, depth=depth)
    for kind in FORMATS.values():
        give_way()
        blank = np.zeros((1, 1, 3), np.uint8)
        kind.write(BytesIO(), Sheet(1, 1, 3, 8), [blank], 90, Metadata())
    WHOLE.touch()


def everything() -> dict[str, object]:
    """Plain data of a stack with every kind of layer and part that has kernels of its own."""
    stroke = {"size": 40, "hardness": 0.9, "opacity": 1, "flow": 1, "points": [[5, 5], [40, 40]]}
    parts = [
        {"kind": "everything", "op": "hide"},
        {"kind": "ramp", "from": [0, 0], "to": [9, 9]},
        {"kind": "oval", "centre": [9, 9], "radii": [9, 9]},
        {"kind": "outline", "points": [[0, 0], [9, 0], [9, 9]]},
        {"kind": "tone", "high": 0.5, "feather": 1},
        {"kind": "colour", "colour": [0.5, 0.5, 0.5]},
        {"kind": "raster", "source": "picture.png"},
        {"kind": "paint", "strokes": [{**stroke, "to": 1}]},
    ]
    curve = [[0, 0], [0.4, 0.5], [1, 1]]
    stops = [{"at": 0, "colour": [0, 0, 0]}, {"at": 1, "colour": [1, 1, 1]}]
    line = {"from": [0, 0], "to": [9, 9], "stops": stops}
    grey = {"hold_colour": True, "reach": {"low": 0.1}}
    layers: list[dict[str, object]] = [
        *({"kind": kind.name, **kind.sampled(SIDE, SIDE)} for kind in KINDS.values() if kind.sampled(SIDE, SIDE)),
        {
            "kind": "curves",
            "settings": {"points": {"tone": curve}},
            "mask": {"start": "closed", "grow": 2, "levels": {"black": 0.1}, "parts": parts},
        },
        {"kind": "hue-saturation", "settings": {"tint": True}},
        {"kind": "grain", "settings": {"amount": 1}},
        {"kind": "blur", "settings": {"sigma": 40}},
        {"kind": "picture", "source": "picture.png", "place": {"x": 9, "y": 9, "scale": 2}},
        {"kind": "picture", "source": "picture.png", "place": {"x": 9, "y": 9, "scale": 0.6}},
        {"kind": "gradient", "settings": line},
        {"kind": "gradient", "settings": {**line, "shape": "radial"}},
        {"kind": "grey", "settings": grey, "strokes": [{**stroke, "to": 1}, {**stroke, "even": 3}]},
        {"kind": "grey", "strokes": [{**stroke, "to": 1}]},
        {"kind": "grey", "strokes": [{**stroke, "to": 1}], "blend": "multiply"},
        {"kind": "fill", "settings": {"colour": [0, 0, 0]}, "blend": "multiply"},
        {"kind": "fill", "settings": {"colour": [0, 0, 0]}, "blend": "color"},
    ]
    base = {"kind": "picture", "source": "picture.png"}
    return {"format": FORMAT, "version": VERSION, "layers": [base, *layers]}
