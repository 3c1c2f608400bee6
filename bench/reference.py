"""The reference stack: twelve layers with masks over a made-up photograph, at any size."""

from __future__ import annotations

from typing import Any

import numpy as np

from glyptic.document.codec import parse_stack
from glyptic.document.values import FORMAT, VERSION, Stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels.pyramid import Picture, Pyramid

SIZES = {1.5: (1500, 1000), 6: (3000, 2000), 24: (6000, 4000), 96: (12000, 8000)}
"""Megapixels to width and height."""
FULL_WIDTH = 6000
"""The stack is drawn for this width; elsewhere everything is scaled."""


def photograph(width: int, height: int, seed: int = 7) -> Picture:
    """A soft picture with grain: a lit backdrop, a few round objects, noise of a sensor."""
    rng = np.random.default_rng(seed)
    x = np.linspace(0, 1, width, dtype=np.float32)[None]
    y = np.linspace(0, 1, height, dtype=np.float32)[:, None]
    light = 0.75 - 0.5 * ((x - 0.35) ** 2 + (y - 0.3) ** 2)
    codes = np.empty((3, height, width), np.uint16)
    objects = [(rng.uniform(0.2, 0.8, 2), rng.uniform(0.05, 0.18), rng.uniform(0.3, 1.1, 3)) for _ in range(6)]
    for c in range(3):
        plane = light * (1.0, 0.96, 0.9)[c]
        for (cx, cy), radius, tint in objects:
            inside = np.clip((radius - np.hypot(x - cx, (y - cy) * height / width)) * 60, 0, 1)
            plane = plane + inside * (plane * tint[c] - plane)
        plane += rng.standard_normal(plane.shape, np.float32) * 0.012
        codes[c] = np.clip(plane, 0, 1) * 65535 + 0.5
    return Picture(Pyramid(codes), b"photograph %d %d %d" % (width, height, seed))


def strokes(count: int, width: int, height: int, seed: int, to: float = 1.0, size: float = 240) -> list[dict[str, Any]]:
    """Short curved strokes around a few places, as a hand that dodges makes them; sizes for FULL_WIDTH."""
    rng = np.random.default_rng(seed)
    scale = width / FULL_WIDTH
    made = []
    for _ in range(count):
        start = rng.uniform([0.25, 0.25], [0.7, 0.7]) * (width, height)
        turn, length = rng.uniform(0, 6.28), rng.uniform(200, 700) * scale
        along = np.linspace(0, 1, 24)[:, None]
        bend = np.stack([np.cos(turn + along[:, 0]), np.sin(turn + along[:, 0])], 1)
        points = np.column_stack([start + bend * length * along, rng.uniform(0.5, 1, 24)])
        made.append(
            {"to": to, "size": size * rng.uniform(0.5, 1.5) * scale, "hardness": 0.2, "opacity": 0.4, "flow": 0.5,
             "pressure": {"opacity": True}, "points": points.round(2).tolist()}
        )  # fmt: skip
    return made


def reference_layers(width: int, height: int) -> list[dict[str, Any]]:
    """Twelve layers."""
    scale = width / FULL_WIDTH
    ramp = {"kind": "ramp", "from": [width * 0.1, height * 0.1], "to": [width * 0.8, height * 0.7]}
    middle = {
        "kind": "oval",
        "centre": [width * 0.45, height * 0.5],
        "radii": [width * 0.35, height * 0.4],
        "softness": 0.6,
    }

    def painted(count: int, seed: int) -> dict[str, Any]:
        return {"start": "closed", "parts": [{"kind": "paint", "strokes": strokes(count, width, height, seed)}]}

    def shown(*parts: dict[str, Any]) -> dict[str, Any]:
        return {"start": "closed", "parts": list(parts)}

    curve = {"rgb": [[0, 0], [0.3, 0.26], [0.7, 0.76], [1, 1]], "red": [[0, 0.01], [0.5, 0.52], [1, 1]],
             "blue": [[0, 0.03], [0.5, 0.49], [1, 0.97]]}  # fmt: skip
    return [
        {"id": "l1", "kind": "curves", "settings": {"points": curve}, "mask": shown(ramp)},
        {"id": "l2", "kind": "levels", "settings": {"rgb": {"black": 0.02, "white": 0.96, "gamma": 1.1}}, "mask": shown(middle)},
        {"id": "l3", "kind": "exposure", "settings": {"stops": 0.4}, "mask": painted(20, 3)},
        {"id": "l4", "kind": "grey", "strokes": strokes(30, width, height, 4) + strokes(30, width, height, 5, to=0.0)},
        {"id": "l5", "kind": "vignette", "settings": {"stops": -1.2, "centre": [width / 2, height / 2],
         "radii": [width * 0.55, height * 0.55], "softness": 0.6}},
        {"id": "l6", "kind": "gradient", "blend": "overlay", "opacity": 0.5, "mask": shown(ramp), "settings": {
            "from": [0, 0], "to": [width, height], "stops": [
                {"at": 0, "colour": [0.6, 0.5, 0.4]}, {"at": 1, "colour": [0.4, 0.5, 0.6], "alpha": 0.3}]}},
        {"id": "l7", "kind": "fill", "blend": "color", "opacity": 0.15, "settings": {"colour": [0.8, 0.6, 0.4]},
         "mask": shown({"kind": "tone", "low": 0.3, "high": 0.8, "soft_low": 0.2, "soft_high": 0.1})},
        {"id": "l8", "kind": "blur", "settings": {"sigma": 20 * scale}, "mask": {"parts": [{**middle, "op": "hide"}]}},
        {"id": "l9", "kind": "curves", "settings": {"points": {"tone": [[0, 0], [0.4, 0.45], [1, 1]]}}, "mask": painted(20, 9)},
        {"id": "l10", "kind": "hue-saturation", "settings": {"hue": 6, "saturation": 0.15},
         "mask": shown({"kind": "tone", "low": 0, "high": 0.3, "soft_high": 0.2, "of": "base"})},
        {"id": "l11", "kind": "vibrance", "settings": {"vibrance": 0.4}, "mask": painted(10, 11)},
        {"id": "l12", "kind": "local-contrast", "settings": {"amount": 0.4, "radius": max(4, 60 * scale)}, "mask": shown(middle)},
    ]  # fmt: skip


def parametric_layers(width: int, height: int) -> list[dict[str, Any]]:
    """The same without what is painted."""
    return [
        {name: value for name, value in layer.items() if name != "mask" or "paint" not in str(value)}
        for layer in reference_layers(width, height)
        if layer["kind"] != "grey"
    ]


def stack_of(layers: list[dict[str, Any]]) -> Stack:
    base = {"id": "base", "kind": "picture", "source": "base.png"}
    return parse_stack({"format": FORMAT, "version": VERSION, "layers": [base, *layers]}, VOCABULARY)
