"""The declared fields every layer, mask, part and stroke has, whatever its kind."""

from __future__ import annotations

from glyptic.document.values import BLEND_MODES
from glyptic.params import (
    Choice,
    Colour,
    ColourIfAny,
    Coordinate,
    Corners,
    CurvePoints,
    Group,
    Length,
    Real,
    Schema,
    Size,
    Text,
    Toggle,
    Turn,
    Values,
    Whole,
)
from glyptic.params.quads import MOST_PIXELS
from glyptic.params.scalar import share

LONGEST_SIGMA = 5000.0
LARGEST_BRUSH = 100_000.0
MOST_LAYERS = 300
MOST_PARTS = 200
MOST_STROKES = 100_000
MOST_POINTS = 200_000
MOST_DABS = 1_000_000
"""Layers of a stack, parts of a mask, strokes of a painting, points and dabs of a stroke."""

NAME = Text(label="Name", help="What the layer is called on its card.")
VISIBLE = Toggle(label="On", default=True, help="Whether the layer is at work.")
LOCKED = Toggle(label="Locked", default=False, help="A locked layer refuses edits.")
MARKS = ("leaf", "star", "wave")
MARK = Choice(
    label="Mark", options=("", *MARKS), titles=("none", *MARKS), default="",
    help="A small sign on the card to find the layer again by.",
)  # fmt: skip
OPACITY = share("Opacity", "How strongly the layer counts.", 1.0)


def blend(default: str) -> Choice:
    return Choice(
        label="Blend", options=tuple(BLEND_MODES), default=default,
        help="How the layer's colour meets what lies below it (W3C Compositing and Blending Level 1).",
    )  # fmt: skip


MODE = Choice(
    label="Mode", options=("through", "isolated"), titles=("Through", "Isolated"), default="through",
    help="Through: its layers work on everything below. Isolated: only on each other, then the result is laid on top.",
)  # fmt: skip


def feather(default: float = 0.0) -> Real:
    return Length(
        label="Feather", help="Gaussian sigma that softens the edge.", default=default, low=0, high=LONGEST_SIGMA,
        soft_high=200,
    )  # fmt: skip


MOST_GROWN = 100


def _black_below_white(values: Values) -> tuple[str, str] | None:
    return ("white", "must be above black") if values["black"] >= values["white"] else None


MASK_LEVELS = Schema(
    {
        "black": Real(label="Hides up to", help="What shows no more than this is hidden.", default=0.0, unit="%", low=0,
                      high=1, step=0.001),
        "white": Real(label="Shows from", help="What shows this much or more is shown wholly.", default=1.0, unit="%",
                      low=0, high=1, step=0.001),
        "gamma": Real(label="Midtone", help="Above 1 shows more of what is half shown, below 1 less.", default=1.0,
                      low=0.1, high=10, step=0.01, soft_low=0.2, soft_high=5),
    },
    checks=(_black_below_white,),
)  # fmt: skip

MASK_HEAD = Schema(
    {
        "start": Choice(
            label="Start", options=("open", "closed"), default="open",
            help="Open shows the layer everywhere before any part; closed hides it everywhere.",
        ),
        "linked": Text(
            label="Linked to", default="", blank=True,
            help="The layer further down whose mask this one begins with, whatever becomes of that.",
        ),
        "invert": Toggle(label="Invert", default=False, help="Swap what is shown and what is hidden."),
        "grow": Length(label="Grow", default=0.0, low=-MOST_GROWN, high=MOST_GROWN,
                     soft_low=-40, soft_high=40, help="By how many pixels what is shown grows; below 0 it shrinks."),
        "feather": feather(),
        "levels": Group(label="Levels", schema=MASK_LEVELS, default=MASK_LEVELS.defaults,
                        help="What counts as hidden and as shown: firms up or loosens a soft edge."),
        "curve": CurvePoints(label="Curve", ends=("hidden", "shown"), help="How much of the mask's value is shown."),
        "density": share("Density", "At less than 100 % the hidden area shows through.", 1.0),
        "enabled": Toggle(label="In use", default=True, help="Off is as if there were no mask."),
        "along": Toggle(label="Moves along", default=False,
                        help="Whether the mask goes along when its picture is moved."),
    }
)  # fmt: skip

PART_HEAD = Schema(
    {
        "op": Choice(
            label="Does", options=("show", "hide", "keep", "replace"), default="show",
            help="Show adds the part, hide takes it away, keep leaves only what lies in it, replace starts anew.",
        ),
        "feather": feather(),
        "invert": Toggle(label="Invert", default=False, help="Use what lies outside the part."),
        "name": Text(label="Name", default="", blank=True, help="What the part is called on the desk."),
    }
)  # fmt: skip

PART_IN_USE = Toggle(label="In use", default=True, help="Off is as if the part were not there.")

PLACE = Schema(
    {
        "x": Coordinate(label="x", help="Where the picture's centre lies."),
        "y": Coordinate(label="y", help="Where the picture's centre lies."),
        "scale": Real(label="Scale", above=0, high=1000, default=1.0, unit="%", soft_low=0.05, soft_high=4),
        "rotation": Turn(label="Turn", default=0.0),
    }
)

CORNERS_PLACE = Schema({"corners": Corners(label="Corners", help="Where the picture's four corners lie.")})

WIDEST_BORDER = 20_000


def _side(name: str) -> Whole:
    return Whole(
        label=name, help="Whole pixels by which the canvas grows here.", default=0, low=0, high=WIDEST_BORDER,
        soft_high=400, unit="px",
    )  # fmt: skip


BORDER = Schema(
    {
        "left": _side("Left"),
        "top": _side("Top"),
        "right": _side("Right"),
        "bottom": _side("Bottom"),
        "colour": Colour(label="Colour", help="Of the border.", default=(1.0, 1.0, 1.0)),
    }
)


def _sheet_within_limits(values: Values) -> tuple[str, str] | None:
    border = values["border"] or BORDER.defaults
    width = values["size"][0] + border["left"] + border["right"]
    height = values["size"][1] + border["top"] + border["bottom"]
    return ("border", f"makes a sheet of more than {MOST_PIXELS:,} pixels") if width * height > MOST_PIXELS else None


FRAME = Schema(
    {
        "corners": Corners(label="Corners", help="Where the cropped picture's corners lie in the base picture."),
        "size": Size(label="Size", help="Width and height of the cropped picture in whole pixels."),
        "outside": ColourIfAny(label="Outside", default=None,
                               help="What lies beyond the picture; the border's colour unless said."),
        "border": Group(label="Border", schema=BORDER, nullable=True, default=None,
                        help="Grows the canvas; covers nothing of the picture."),
        "enabled": Toggle(label="On", default=True, help="Off is as if there were no frame, and nothing over it."),
    },
    checks=(_sheet_within_limits,),
)  # fmt: skip

MEASURES = ("size", "opacity", "flow")


def _drives(what: str) -> Group:
    schema = Schema(
        {
            name: Toggle(label=name.title(), default=False, help=f"The pen's {what} drives the {name}.")
            for name in MEASURES
        }
    )
    return Group(label=what.title(), schema=schema, default=schema.defaults)


PEN = {what: _drives(what) for what in ("pressure", "tilt", "speed")}
"""What a pen tells of itself, and which measures of a stroke each drives."""


def _to_or_even(values: Values) -> tuple[str, str] | None:
    if values["to"] is None and values["even"] is None:
        return "to", "is missing"
    if values["to"] is not None and values["even"] is not None:
        return "even", "cannot stand beside 'to'"
    return None


STROKE_HEAD = Schema(
    {
        "size": Length(label="Size", above=0, high=LARGEST_BRUSH, soft_low=1, soft_high=2000,
                     help="The brush's diameter in pixels of the picture."),
        "hardness": Real(label="Hardness", unit="%", low=0, high=1,
                         help="0 % fades from the centre, 100 % has a sharp edge."),
        "opacity": Real(label="Opacity", unit="%", low=0, high=1, help="The most one stroke can do."),
        "flow": Real(label="Flow", unit="%", low=0, high=1, help="How fast a stroke builds up."),
        "to": Real(label="To", low=0, high=1, default=None, help="The value painted towards."),
        "even": Length(label="Even out", low=0, high=LONGEST_SIGMA, default=None,
                     help="Gaussian sigma of a stroke that blurs the painting itself."),
        "spacing": Real(label="Spacing", low=0, high=100, default=0.1, unit="%",
                        help="Distance between dabs as a share of the diameter."),
        **PEN,
    },
    checks=(_to_or_even,),
)  # fmt: skip


def in_order(values: Values) -> tuple[str, str] | None:
    """A range of tone whose ends stand the right way round."""
    return ("high", "must not be below low") if values["high"] < values["low"] else None


TONE_WINDOW = {
    "low": share("From tone", "The darkest tone that counts, L* as a share.", 0.0),
    "high": share("To tone", "The lightest tone that counts, L* as a share.", 1.0),
    "soft_low": share("Soft below", "Over how much tone it fades out below.", 0.0),
    "soft_high": share("Soft above", "Over how much tone it fades out above.", 0.0),
}
