"""Strokes as plain data."""

from __future__ import annotations

from typing import Any

from glyptic.document import fields
from glyptic.document.values import Drives, Stroke


def plain_stroke(stroke: Stroke) -> dict[str, Any]:
    return {**plain_brush(stroke), "points": [list(p) for p in stroke.points]}


def plain_brush(stroke: Stroke) -> dict[str, Any]:
    """A stroke without its points: the brush it was drawn with."""
    out: dict[str, Any] = {} if stroke.to is None else {"to": stroke.to}
    if stroke.even is not None:
        out["even"] = stroke.even
    out |= {"size": stroke.size, "hardness": stroke.hardness, "opacity": stroke.opacity, "flow": stroke.flow}
    out["spacing"] = stroke.spacing
    for what in fields.PEN:
        drives = getattr(stroke, what)
        if drives != Drives():
            out[what] = {name: getattr(drives, name) for name in fields.MEASURES}
    return out
