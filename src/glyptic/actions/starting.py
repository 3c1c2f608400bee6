"""New layers and new mask parts, as they start on a plate."""

from __future__ import annotations

from typing import Any

from glyptic.actions.workshop import Workshop
from glyptic.adjust import KINDS
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.values import Stack

ADDABLE = (
    "curves", "levels", "exposure", "brightness-contrast", "invert", "white-balance",
    "hue-saturation", "vibrance", "grey", "fill",
    "gradient", "vignette", "blur", "picture", "group",
)  # fmt: skip
"""The order of the Add sheet, most used first."""
STARTS_OPEN = ("grey", "picture")
"""Kinds that start open whatever the switch says: a grey layer changes nothing until it is painted."""


def starting_layer(workshop: Workshop, stack: Stack, kind_name: str, start: str, source: str = "") -> dict[str, Any]:
    """The plain data of a new layer for the edit `add-layer`; source is the asset of a picture layer."""
    kind = KINDS.get(kind_name)
    if kind is None or kind_name not in ADDABLE:
        raise DocumentError([Fault("kind", f"must be one of {', '.join(ADDABLE)}")])
    picture = workshop.plan(stack, "").picture
    layer: dict[str, Any] = {"kind": kind.name, "name": kind.title}
    if kind.schema.params:
        layer["settings"] = kind.starting(picture.width, picture.height)
    if kind.carries == "picture":
        layer["source"] = source
        layer["place"] = {"x": picture.width / 2, "y": picture.height / 2}
    if start == "closed" and kind_name not in STARTS_OPEN:
        layer["mask"] = {"start": "closed"}
    return layer
