"""What the desk and the strip show of a state, made ready for the templates."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from glyptic.actions.measure import thumbnail_key
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust import KINDS, Kind
from glyptic.adjust.curves import CURVES_OF, sampled
from glyptic.adjust.kind import Aid
from glyptic.document import fields
from glyptic.document.codec import layer_head
from glyptic.document.edits.layers import would_change
from glyptic.document.edits.strokes import GREY_PART, paintings_of
from glyptic.document.values import Layer, Part
from glyptic.masks import PARTS, PartKind
from glyptic.masks.region import REGION
from glyptic.params import Choice

CURVE_WIDTH, CURVE_HEIGHT = 276, 168
MASK_CURVE_WIDTH, MASK_CURVE_HEIGHT = 276, 96
EMBLEM = 22
SAMPLES = 139
SHAPES = ("ramp", "oval", "outline")
OWN_SHAPES = {"gradient": "ramp", "vignette": "oval"}


def curve_path(points: tuple[tuple[float, float], ...], width: float, height: float, inset: float = 0) -> str:
    """The SVG path of a curve through points, in a box of that size, y upwards."""
    values = sampled(points, SAMPLES)
    wide, high = width - 2 * inset, height - 2 * inset
    places = (
        f"{inset + wide * i / (SAMPLES - 1):.1f},{inset + high * (1 - min(max(v, 0.0), 1.0)):.1f}"
        for i, v in enumerate(values)
    )
    return "M" + "L".join(places)


def curve_paths(layer: Layer) -> dict[str, str]:
    """The paths of a curves layer by channel; empty for any other kind."""
    if layer.kind != "curves":
        return {}
    return {name: curve_path(points, CURVE_WIDTH, CURVE_HEIGHT) for name, points in layer.settings["points"].items()}


def emblem_path(layer: Layer) -> str:
    """The small plot of a curves layer: the curve that differs most from the straight line."""
    points = layer.settings["points"]
    shown = next((points[name] for name in ("rgb", "tone", "red", "green", "blue") if len(points[name]) > 2
                  or points[name] != ((0.0, 0.0), (1.0, 1.0))), points["rgb"])  # fmt: skip
    return curve_path(shown, EMBLEM, EMBLEM, 3)


def target_of(current: Current) -> dict[str, Any]:
    """What a stroke could paint on: {"name", "grey", "mask", "why"}; `why` says why there is nothing."""
    layer = current.stack.find(current.chosen)
    if layer is None or layer.id == current.stack.base.id:
        return {"name": "Base", "grey": False, "mask": False, "strokes": 0, "why": "choose a grey layer or a mask"}
    why = f"‘{layer.name}’ is locked" if layer.locked else ""
    free = not layer.locked
    return {
        "name": layer.name, "grey": free and layer.kind == "grey", "mask": free, "why": why,
        "masked": layer.mask is not None, "kind": layer.kind,
        "strokes": sum(len(strokes) for strokes in paintings_of(layer).values()),
        "off": not layer.visible or (layer.mask is not None and not layer.mask.enabled),
    }  # fmt: skip


def shapes_of(current: Current) -> list[dict[str, Any]]:
    """What of the chosen layer has handles on the picture: drawn parts of its mask, and a gradient or vignette itself.
    part: its place in the mask, None for the layer's own."""
    layer = current.stack.find(current.chosen)
    if layer is None or layer.locked:
        return []
    found: list[dict[str, Any]] = []
    for i, part in enumerate(layer.mask.parts if layer.mask else ()):
        if part.kind in SHAPES:
            values = {"rotation": 0, **PARTS[part.kind].schema.plain(part.settings)}
            found.append({"part": i, "shape": part.kind, "field": f"mask.parts[{i}]", "values": values})
    own = OWN_SHAPES.get(layer.kind)
    if own is not None:
        values = {"rotation": 0, **KINDS[layer.kind].schema.plain(layer.settings)}
        found.append({"part": None, "shape": own, "field": "settings", "values": values})
    return found


def regions_of(current: Current) -> list[dict[str, Any]]:
    """The regions in the chosen layer's mask: their place in it and their scribbles."""
    layer = current.stack.find(current.chosen)
    parts = layer.mask.parts if layer is not None and layer.mask is not None and not layer.locked else ()
    return [
        {"part": i, "seeds": [dict(seed) for seed in part.settings["seeds"]]}
        for i, part in enumerate(parts)
        if part.kind == REGION.name
    ]


def picks_of(current: Current) -> tuple[Aid, ...]:
    """What can be set on the chosen layer by pressing on the picture."""
    layer = current.stack.find(current.chosen)
    return KINDS[layer.kind].picks if layer is not None and not layer.locked else ()


@dataclass(frozen=True)
class CardView:
    """A card of the strip. `thumb` is a tile key, '' for none."""

    layer: Layer
    kind: Kind
    thumb: str
    note: str
    emblem: str = ""
    inner: list[CardView] = field(default_factory=list)


def strip_of(shop: Workshop, current: Current) -> list[CardView]:
    """The cards in the order light passes through the work."""
    base = current.stack.base
    picture = shop.picture(base.source)
    first = CardView(
        base, KINDS[base.kind], thumbnail_key(shop, current.stack, "before", base.id),
        f"{picture.width} × {picture.height}",
    )  # fmt: skip
    return [first, *(_card(shop, current, layer) for layer in current.stack.layers[1:])]


def _card(shop: Workshop, current: Current, layer: Layer) -> CardView:
    kind = KINDS[layer.kind]
    thumb = ""
    if layer.kind == "grey":
        thumb = thumbnail_key(shop, current.stack, "grey-alone", layer.id)
    elif layer.mask is not None:
        thumb = thumbnail_key(shop, current.stack, "mask-alone", layer.id)
    words = [] if layer.name.startswith(kind.title) else [kind.title.lower()]
    if layer.blend != kind.default_blend:
        words.append(layer.blend.replace("-", " "))
    note = ", ".join(words)
    emblem = emblem_path(layer) if layer.kind == "curves" else ""
    inner = [_card(shop, current, child) for child in layer.layers]
    return CardView(layer, kind, thumb, note, emblem, inner)


@dataclass(frozen=True)
class PartRow:
    """A line of the mask's list."""

    index: int
    part: Part
    kind: PartKind
    says: str


@dataclass(frozen=True)
class Strokes:
    """What is painted on a layer. part, count: the painting that is painted on now, and its strokes; all: of all."""

    part: int
    count: int
    all: int


def _strokes_of(layer: Layer) -> Strokes | None:
    painted = {part: len(strokes) for part, strokes in paintings_of(layer).items() if strokes}
    if not painted:
        return None
    part = GREY_PART if GREY_PART in painted else max(painted)
    return Strokes(part, painted[part], sum(painted.values()))


@dataclass(frozen=True)
class Desk:
    """The chosen layer, with the declarations its controls are drawn from."""

    layer: Layer
    kind: Kind
    is_base: bool
    head: dict[str, Any]
    mask_head: dict[str, Any]
    part_head: dict[str, Any]
    parts: list[PartRow]
    givers: list[Layer]
    below: list[Layer]
    """Those of the givers that a mask can be linked to: they lie further down."""
    linked: str
    mask_curve: str
    place: dict[str, Any]
    first_tab: str
    strokes: Strokes | None
    mode: Choice
    kept_apart: str
    """Why the group cannot be taken apart as it is, or ''."""


def desk_of(shop: Workshop, current: Current) -> Desk:
    layer = current.stack.find(current.chosen) or current.stack.base
    kind = KINDS[layer.kind]
    mask = layer.mask
    rows = [_row(i, part) for i, part in enumerate(mask.parts if mask else ())]
    givers = [other for other in current.stack.walk() if other.mask is not None and other.id != layer.id]
    order = [other.id for other in current.stack.walk()]
    below = [giver for giver in givers if order.index(giver.id) < order.index(layer.id)]
    other = current.stack.find(mask.linked) if mask is not None and mask.linked else None
    return Desk(
        layer, kind, layer.id == current.stack.base.id, dict(layer_head(kind).params), dict(fields.MASK_HEAD.params),
        dict(fields.PART_HEAD.params), rows, givers, below, other.name if other else "",
        curve_path(mask.curve, MASK_CURVE_WIDTH, MASK_CURVE_HEIGHT) if mask is not None else "",
        dict(fields.PLACE.params), _first_tab(layer, kind),
        _strokes_of(layer), fields.MODE, would_change(layer) if layer.kind == "group" else "",
    )  # fmt: skip


def _first_tab(layer: Layer, kind: Kind) -> str:
    """The channel to open the tabs of a kind with: the first that is not neutral, or all channels."""
    values, schema = layer.settings, kind.schema
    if layer.kind == "curves":
        values, schema = values["points"], CURVES_OF
    changed = (name for name, param in schema.params.items() if values[name] != param.default)
    return next(changed, next(iter(schema.params), ""))


def _row(index: int, part: Part) -> PartRow:
    kind = PARTS[part.kind]
    if kind.carries == "strokes":
        count = len(part.strokes)
        return PartRow(index, part, kind, f"{count} stroke{'' if count == 1 else 's'}")
    return PartRow(index, part, kind, part.op)
