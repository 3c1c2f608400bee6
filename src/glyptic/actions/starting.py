"""New layers, as they start on a plate, and as they are shown to be chosen from."""

from __future__ import annotations

from typing import Any

from glyptic.actions.edit import edited, worked_out
from glyptic.actions.placing import canvas_of, start_of
from glyptic.actions.workshop import Workshop
from glyptic.adjust import KINDS, Kind
from glyptic.adjust.kind import PURPOSES
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.codec import parse_layer
from glyptic.document.opposites import opposite_layer
from glyptic.document.values import Stack
from glyptic.document.writing import plain_layer
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.shown import shown_in
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.jpeg import encode_small
from glyptic.pixels.spaces import SRGB

PREVIEW_SIDE, PREVIEW_QUALITY = 256, 88
PAIR = "pair"
"""What is asked for to get a lighter and a darker adjustment at once."""
PAIR_TITLE, PAIR_SAYS = (
    "Lighter & darker",
    "Two curves, one lighter and one darker, both closed: burn and dodge by their masks.",
)
_LIGHTER, _DARKER = [[0, 0], [0.45, 0.62], [1, 1]], [[0, 0], [0.55, 0.38], [1, 1]]
ADDABLE = tuple(sorted(KINDS.values(), key=lambda kind: (PURPOSES.index(kind.purpose), kind.rank)))
"""Every kind in the order of the Add sheet."""


def _kind(name: str) -> Kind:
    kind = KINDS.get(name)
    if kind is None:
        raise DocumentError([Fault("kind", f"must be one of {', '.join(kind.name for kind in ADDABLE)}")])
    return kind


def sampled_layer(workshop: Workshop, stack: Stack, kind: Kind, after: str | None) -> dict[str, Any]:
    """The plain data of a layer, put after another, that shows what a kind does at a sensible strength; empty where it
    cannot be shown."""
    fields = kind.sampled(*canvas_of(workshop, stack, after))
    return {"kind": kind.name, "name": kind.title, **fields} if fields else {}


def turned_over(sample: dict[str, Any]) -> dict[str, Any]:
    """A sampled layer doing the contrary; empty where there is no such."""
    if not sample.get("settings"):
        return {}
    layer = parse_layer(sample, VOCABULARY, "layer")
    turned = opposite_layer(layer, VOCABULARY)
    return {} if turned == layer else {**sample, "settings": plain_layer(turned, VOCABULARY)["settings"]}


def turned_start(workshop: Workshop, stack: Stack, layer: dict[str, Any], after: str | None) -> dict[str, Any]:
    """A starting layer that does the contrary of what its kind is shown with; as it is where there is no such."""
    kind = KINDS.get(layer["kind"])
    turned = turned_over(sampled_layer(workshop, stack, kind, after)) if kind is not None else {}
    return {**layer, "settings": turned["settings"]} if turned else layer


def preview(workshop: Workshop, stack: Stack, kind_name: str, after: str | None) -> bytes:
    """A small JPEG of a stack with a layer of a kind tried on it, put after another."""
    layer = sampled_layer(workshop, stack, _kind(kind_name), after)
    return _small(workshop, edited(stack, "add-layer", {"layer": layer, "after": after}).stack if layer else stack)


def preview_of_kit(workshop: Workshop, stack: Stack, kit_id: int) -> bytes:
    """A small JPEG of a stack with a kit tried on it."""
    return _small(workshop, worked_out(workshop, stack, "add-kit", {"kit": kit_id}).stack)


def _small(workshop: Workshop, tried: Stack) -> bytes:
    plan = make_plan(tried, workshop.pictures_of(tried), workshop.chains)
    level = plan.outer.level_within(PREVIEW_SIDE)
    return encode_small(render(plan, workshop.tiles, level, node=shown_in(plan.finished, SRGB)).colour, PREVIEW_QUALITY)


def _pair() -> dict[str, Any]:
    """A group of a lighter and a darker curve, both closed."""
    closed = {"start": "closed"}
    layers = [
        {"kind": "curves", "name": name, "settings": {"points": {"rgb": points}}, "mask": closed}
        for name, points in (("Lighter", _LIGHTER), ("Darker", _DARKER))
    ]
    return {"kind": "group", "name": PAIR_TITLE, "layers": layers}


def starting_layer(
    workshop: Workshop, stack: Stack, kind_name: str, start: str, after: str | None = None, source: str = ""
) -> dict[str, Any]:
    """The plain data of a new layer for the edit `add-layer`, put after another; source is the asset of a picture."""
    if kind_name == PAIR:
        return _pair()
    kind = _kind(kind_name)
    over = canvas_of(workshop, stack, after)
    layer: dict[str, Any] = {"kind": kind.name, "name": kind.title}
    if kind.schema.params:
        layer["settings"] = kind.starting(*over)
    if kind.carries == "picture":
        layer["source"] = source
        layer["place"] = start_of(workshop.picture(source).canvas, over)
    if start == "closed" and not kind.starts_open:
        layer["mask"] = {"start": "closed"}
    return layer
