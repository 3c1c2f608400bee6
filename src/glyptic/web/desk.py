"""What the desk and the strip show of a state, made ready for the templates."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from glyptic.actions.files import left_open
from glyptic.actions.measure import thumbnail_key
from glyptic.actions.merging import is_stale, made_of
from glyptic.actions.workshop import Current, Workshop
from glyptic.adjust import KINDS, Kind
from glyptic.adjust.curves import CURVES_OF, sampled
from glyptic.document import fields
from glyptic.document.codec import layer_head
from glyptic.document.edits.across import on_sheet
from glyptic.document.edits.layers import would_change
from glyptic.document.edits.strokes import GREY_PART, paintings_of
from glyptic.document.values import Layer, Mask, Part, Stack
from glyptic.masks import PARTS, PartKind
from glyptic.params import Choice, Schema
from glyptic.pixels.spaces import SPACES
from glyptic.web.declared import CURVE_HEIGHT, CURVE_WIDTH, MASK_CURVE_HEIGHT, MASK_CURVE_WIDTH

EMBLEM = 22
SAMPLES = 139


@dataclass(frozen=True)
class Way:
    """A way to a mask: its name for the page, its word, its sentence of help; sign: of the sheet of signs, where it is
    not called as the way."""

    name: str
    title: str
    help: str
    sign: str = ""


WAYS = (
    Way("paint", "Paint", "Paint on the mask with the brush: Show and Hide are its sides (2)"),
    Way("ramp", "Ramp", "Draw a straight fall-off, from full to none (3)"),
    Way("oval", "Oval", "Draw an ellipse with a soft rim, from its middle (4)"),
    Way("outline", "Outline", "Draw around an area: freehand, or corner by corner (5)"),
    Way("region", "Region", "Scribble on an area: it grows to the picture's edges (6)"),
    Way("tone", "Tone", PARTS["tone"].summary),
    Way("colour", "Colour", "What is near a colour, or near several: pick them in the picture."),
    Way("backdrop", "Backdrop", "The likely backdrop, found by the picture's edges; scribble to mend it."),
    Way("picture", "Grey file", "A grey picture file of the plate's size as a part."),
    Way("fill-show", "Everything", "A part that covers everything: shown, for the parts after it to hide."),
)


def curve_path(points: tuple[tuple[float, float], ...], width: float, height: float, inset: float = 0) -> str:
    """The SVG path of a curve through points, in a box of that size, y upwards."""
    values = sampled(points, SAMPLES)
    wide, high = width - 2 * inset, height - 2 * inset
    places = (
        f"{inset + wide * i / (SAMPLES - 1):.1f},{inset + high * (1 - min(max(v, 0.0), 1.0)):.1f}"
        for i, v in enumerate(values)
    )
    return "M" + "L".join(places)


STRAIGHT_PATH = curve_path(((0.0, 0.0), (1.0, 1.0)), CURVE_WIDTH, CURVE_HEIGHT)
"""The path of a curve that changes nothing."""


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
    picture = shop.base_of(current.stack)
    first = CardView(
        base, KINDS[base.kind], thumbnail_key(shop, current.stack, "before", base.id),
        f"{picture.width} × {picture.height}",
    )  # fmt: skip
    return [first, *(_card(shop, current, layer) for layer in current.stack.layers[1:])]


def sheet_of(shop: Workshop, current: Current) -> list[CardView]:
    """The cards of the layers over the sheet."""
    return [_card(shop, current, layer) for layer in current.stack.sheet_layers]


def _card(shop: Workshop, current: Current, layer: Layer) -> CardView:
    kind = KINDS[layer.kind]
    thumb = ""
    if layer.kind == "grey":
        thumb = thumbnail_key(shop, current.stack, "grey-alone", layer.id)
    elif layer.mask is not None:
        thumb = thumbnail_key(shop, current.stack, "mask-alone", layer.id)
    words = [] if layer.name.startswith(kind.title) else [kind.title.lower()]
    told = _made_of(shop, current.stack, layer)
    if told:
        words = ["out of date" if told == "changed" else "merged, 16 bit"]
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
    thumb: str
    """The key of a small picture of what it covers."""


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
    made_of: str
    """What a merged copy was made of: '' for no copy, 'below', or 'changed' where that has changed since."""
    first_tab: str
    strokes: Strokes | None
    mode: Choice
    kept_apart: str
    """Why the group cannot be taken apart as it is, or ''."""
    in_group: str
    """The name of the group it lies in, or ''."""
    is_first: bool
    is_last: bool
    """Whether it stands at either end of its row."""
    next_mark: str
    begins: str
    """The leaf that a layer opens with whatever its kind was left on, or ''."""
    plain_settings: dict[str, Any]
    plain_defaults: dict[str, Any]
    space: str
    """The working space, as the page writes it."""
    left_open: str
    """What was decided for the base's file and may be wanted otherwise, or ''."""


def desk_of(shop: Workshop, current: Current) -> Desk:
    stack = current.stack
    layer = stack.find(current.chosen) or stack.base
    kind, mask = KINDS[layer.kind], layer.mask
    givers = [other for other in stack.walk() if other.mask is not None and other.id != layer.id]
    order = [other.id for other in stack.walk()]
    other = stack.find(mask.linked) if mask is not None and mask.linked else None
    group = next((one for one in stack.walk() if layer in one.layers), None)
    row = group.layers if group else stack.sheet_layers if on_sheet(stack, layer.id) else stack.layers
    is_base = layer.id == stack.base.id
    return Desk(
        layer=layer, kind=kind, is_base=is_base, head=dict(layer_head(kind).params),
        mask_head=dict(fields.MASK_HEAD.params), part_head=dict(fields.PART_HEAD.params),
        parts=[_row(shop, stack, layer, i, part) for i, part in enumerate(mask.parts if mask else ())], givers=givers,
        below=[giver for giver in givers if order.index(giver.id) < order.index(layer.id)],
        linked=other.name if other else "",
        mask_curve=curve_path(mask.curve, MASK_CURVE_WIDTH, MASK_CURVE_HEIGHT) if mask is not None else "",
        place=dict(fields.PLACE.params), made_of=_made_of(shop, stack, layer),
        first_tab=_first_tab(layer, kind), strokes=_strokes_of(layer),
        mode=fields.MODE, kept_apart=would_change(layer) if layer.kind == "group" else "",
        in_group=group.name if group else "", is_first=row.index(layer) == (0 if group else 1),
        is_last=row[-1] is layer, next_mark=_next(fields.MARK.options, layer.mark),
        begins="mask" if _is_closed(layer) else "",
        plain_settings=kind.schema.plain(layer.settings), plain_defaults=starting_values(kind.schema),
        space=SPACES[stack.working_space].title, left_open=left_open(shop, stack) if is_base else "",
    )  # fmt: skip


def _made_of(shop: Workshop, stack: Stack, layer: Layer) -> str:
    if not made_of(layer):
        return ""
    return "changed" if is_stale(shop, stack, layer) else "below"


def _next(options: tuple[str, ...], now: str) -> str:
    return options[(options.index(now) + 1) % len(options)]


def _is_closed(layer: Layer) -> bool:
    """Whether a layer shows nowhere yet."""
    mask = layer.mask
    return mask is not None and mask.start == "closed" and not mask.parts and not mask.linked


def starting_values(schema: Schema) -> dict[str, Any]:
    """The plain defaults of all settings that have one."""
    return {name: param.plain(param.default) for name, param in schema.params.items() if not param.required}


def _first_tab(layer: Layer, kind: Kind) -> str:
    """The channel to open the tabs of a kind with: the first that is not neutral, or all channels."""
    values, schema = layer.settings, kind.schema
    if layer.kind == "curves":
        values, schema = values["points"], CURVES_OF
    changed = (name for name, param in schema.params.items() if values[name] != param.default)
    return next(changed, next(iter(schema.params), ""))


def _row(shop: Workshop, stack: Stack, layer: Layer, index: int, part: Part) -> PartRow:
    kind = PARTS[part.kind]
    says = part.op
    if kind.carries == "strokes":
        count = len(part.strokes)
        says = f"{count} stroke{'' if count == 1 else 's'}"
    return PartRow(index, part, kind, says, _part_thumb(shop, stack, layer, part))


def _part_thumb(shop: Workshop, stack: Stack, layer: Layer, part: Part) -> str:
    """The key of a small picture of one part by itself; what looks at the picture below is shown in its stack."""
    alone = replace(part, op="show", enabled=True)
    hides = part.strokes and part.strokes[0].to == 0
    masked = replace(layer, mask=Mask(start="open" if hides else "closed", parts=(alone,)))
    looks = part.settings.get("of") == "below"
    shown = stack.replaced(masked) if looks else _with_one(stack, layer, replace(PLAIN_LAYER, mask=masked.mask))
    return thumbnail_key(shop, shown, "mask-alone", layer.id if looks else PLAIN_LAYER.id)


def _with_one(stack: Stack, like: Layer, layer: Layer) -> Stack:
    """A stack of the base and one layer, on the side of the frame that another one is on."""
    if stack.frame is not None and on_sheet(stack, like.id):
        return Stack((stack.base,), frame=replace(stack.frame, layers=(layer,)))
    return Stack((stack.base, layer), frame=stack.frame and replace(stack.frame, layers=()))


PLAIN_LAYER = Layer("part", "invert", "Part", settings=KINDS["invert"].schema.defaults)
"""The layer whose mask a part is shown on by itself."""
