"""What the page shares with the core: declared once there, sent to the page as it opens, typed for its scripts."""

from __future__ import annotations

from typing import Any, NotRequired, TypedDict, get_args, get_origin, get_type_hints

from glyptic.actions.edit import WIDER
from glyptic.adjust import KINDS
from glyptic.base.rectangles import Canvas
from glyptic.document import fields
from glyptic.masks import PARTS
from glyptic.params import CurvePoints, Group, Real
from glyptic.web.keys import plain_keys

CURVE_WIDTH, CURVE_HEIGHT = 276, 168
MASK_CURVE_WIDTH, MASK_CURVE_HEIGHT = 276, 96
LARGEST_BRUSH = 4000
"""The largest size the hand bar gives; a stack file may hold larger ones."""
EVENED_SHARE, LEAST_EVENED = 0.3, 1
"""The sigma of Even: a share of the brush's size, in pixels of the picture, and its least."""
SPACING = 0.1


class Key(TypedDict):
    """A key as the page binds it; see `web.keys`."""

    name: str
    presses: list[str]
    held: bool
    repeats: bool
    free: bool
    where: str


class Box(TypedDict):
    """The size of a plot, in its own units."""

    width: float
    height: float


class Span(TypedDict):
    """What a number may be."""

    low: float
    high: float


class BrushMeasures(TypedDict):
    """A brush as it starts: size in pixels, the others 0..1."""

    size: float
    hardness: float
    opacity: float
    flow: float
    side: float


class BrushStart(TypedDict):
    """A brush for masks, and one for grey layers."""

    mask: BrushMeasures
    grey: BrushMeasures


class Evened(TypedDict):
    """How far Even blurs a painting."""

    share: float
    least: float


class BrushDeclared(TypedDict):
    """What the page knows of the brush."""

    start: BrushStart
    largest: float
    spacing: float
    evened: Evened


class LevelsDeclared(TypedDict):
    """What the page knows of levels."""

    gamma: Span


class Declared(TypedDict):
    """Everything that is declared in the core and used by the page."""

    keys: list[Key]
    brush: BrushDeclared
    parts: dict[str, dict[str, Any]]
    curve: Box
    maskCurve: Box
    levels: LevelsDeclared
    mostPoints: int
    slowly: list[str]
    """Edits that take long to work out: they are not tried before they are kept."""
    deepest: int
    transparent: bool


class Target(TypedDict):
    """What a stroke could paint on. why: the reason there is nothing, or ''; off: whether it would not be seen; bare:
    'open' or 'closed' for a mask that shows everywhere or nowhere so far, or ''."""

    name: str
    grey: bool
    mask: bool
    masked: bool
    kind: str
    strokes: int
    why: str
    off: bool
    bare: str


class Pick(TypedDict):
    """What pressing on the picture sets; see `adjust.kind.Aid`."""

    title: str
    help: str
    drags: bool


class Shape(TypedDict):
    """What has handles on the picture. part: its place in the mask, None for the layer's own shape."""

    part: int | None
    shape: str
    field: str
    values: dict[str, Any]


class FrameState(TypedDict):
    """The frame. corners, size, border, whole: as the stack file has them, and the base's size; enabled: whether it is
    at work; turn: of its upper side, degrees; refines: whether a still picture is made of a finer one."""

    corners: list[list[float]]
    size: list[int]
    border: list[int]
    enabled: bool
    turn: float
    refines: bool


class Seeds(TypedDict):
    """A region in the mask, with its scribbles."""

    part: int
    seeds: list[dict[str, Any]]


class PageState(TypedDict):
    """What the canvas and the hand need to know of a state; roots as hexadecimal digests. through: the nine numbers of
    what carries pixels of the sheet to pixels of what the chosen layer lies on, None where they are the same. whole,
    sheet: the size of the base picture, and of what comes out; deepest: the last level of that. base: its id.
    proofs: their names by number, the newest first; notes: sets, pins, findings left and the subject, as the stack file
    has them."""

    revision: int
    space: str
    trouble: str
    said: str
    chosen: str
    target: Target
    curves: dict[str, str]
    straight: str
    picks: dict[str, Pick]
    shapes: list[Shape]
    regions: list[Seeds]
    frame: FrameState | None
    through: list[float] | None
    whole: list[int]
    sheet: list[int]
    deepest: int
    root: str
    undo: str | None
    redo: str | None
    base: str
    proofs: dict[str, str]
    notes: dict[str, Any]
    message: NotRequired[str]


def declared(picture: Canvas, transparent: bool) -> Declared:
    """All that the page of a picture is told."""
    levels = KINDS["levels"].schema.params["rgb"]
    assert isinstance(levels, Group)  # noqa: S101
    gamma = levels.schema.params["gamma"]
    assert isinstance(gamma, Real)  # noqa: S101
    start: BrushMeasures = {"size": 240, "hardness": 0, "opacity": 1, "flow": 0.5, "side": 1}
    return {
        "keys": plain_keys(),  # type: ignore[typeddict-item]
        "brush": {
            "start": {"mask": start, "grey": {**start, "opacity": 0.1}},
            "largest": min(LARGEST_BRUSH, fields.LARGEST_BRUSH),
            "spacing": SPACING,
            "evened": {"share": EVENED_SHARE, "least": LEAST_EVENED},
        },
        "parts": {name: kind.starting for name, kind in PARTS.items()},
        "curve": {"width": CURVE_WIDTH, "height": CURVE_HEIGHT},
        "maskCurve": {"width": MASK_CURVE_WIDTH, "height": MASK_CURVE_HEIGHT},
        "levels": {"gamma": dict(zip(("low", "high"), gamma.slider, strict=True))},  # type: ignore[typeddict-item]
        "mostPoints": CurvePoints().most,
        "slowly": list(WIDER),
        "deepest": picture.deepest,
        "transparent": transparent,
    }


TYPES = (Key, Box, Span, BrushMeasures, BrushStart, Evened, BrushDeclared, LevelsDeclared, Declared, Target, Pick,
         Shape, FrameState, Seeds, PageState)  # fmt: skip
_PLAIN = {str: "string", int: "number", float: "number", bool: "boolean", type(None): "null", Any: "any"}


def _typed(hint: Any) -> str:
    if hint in _PLAIN:
        return _PLAIN[hint]
    if hint in TYPES:
        return str(hint.__name__)
    origin, inner = get_origin(hint), [_typed(one) for one in get_args(hint)]
    if origin is list:
        return f"{inner[0]}[]"
    if origin is dict:
        return f"Record<{inner[0]}, {inner[1]}>"
    return " | ".join(inner)


def types_of_the_page() -> str:
    """The same declarations for the page's scripts (static/js/core/declared.d.ts)."""
    lines = ["/** Made by scripts/make_docs.py from glyptic.web.declared; a test fails where it is out of date. */"]
    for made in TYPES:
        optional = made.__optional_keys__
        hints = get_type_hints(made)
        rows = [f"  {name}{'?' if name in optional else ''}: {_typed(hint)};" for name, hint in hints.items()]
        lines += ["", f"/** {(made.__doc__ or '').strip()} */", f"export type {made.__name__} = {{", *rows, "};"]
    return "\n".join(lines) + "\n"
