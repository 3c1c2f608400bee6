"""New layers, as they start on a plate, and as they are shown to be chosen from."""

from __future__ import annotations

from typing import Any

from glyptic.actions.workshop import Workshop
from glyptic.adjust import KINDS, Kind
from glyptic.adjust.kind import PURPOSES
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.values import Stack

ADDABLE = tuple(sorted(KINDS.values(), key=lambda kind: (PURPOSES.index(kind.purpose), kind.rank)))
"""Every kind in the order of the Add sheet."""


def _kind(name: str) -> Kind:
    kind = KINDS.get(name)
    if kind is None:
        raise DocumentError([Fault("kind", f"must be one of {', '.join(kind.name for kind in ADDABLE)}")])
    return kind


def starting_layer(workshop: Workshop, stack: Stack, kind_name: str, start: str, source: str = "") -> dict[str, Any]:
    """The plain data of a new layer for the edit `add-layer`; source is the asset of a picture layer."""
    kind = _kind(kind_name)
    picture = workshop.plan(stack, "").picture
    layer: dict[str, Any] = {"kind": kind.name, "name": kind.title}
    if kind.schema.params:
        layer["settings"] = kind.starting(picture.width, picture.height)
    if kind.carries == "picture":
        layer["source"] = source
        layer["place"] = {"x": picture.width / 2, "y": picture.height / 2}
    if start == "closed" and not kind.starts_open:
        layer["mask"] = {"start": "closed"}
    return layer
