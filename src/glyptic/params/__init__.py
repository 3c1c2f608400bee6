"""Declared settings: range, unit, step, default and help stand in one place; everything else reads them.

Forms, validation, the stack file and the documentation are derived from these declarations.
"""

from glyptic.params.declared import REQUIRED, Param, Recolour
from glyptic.params.geometry import (
    Angle,
    Colour,
    Colours,
    Coordinate,
    CurvePoints,
    Hue,
    Length,
    Point,
    Points,
    Polygon,
    Radii,
    Shift,
    Turn,
)
from glyptic.params.moving import Scale
from glyptic.params.nested import GradientStops, Group, Schema, Values
from glyptic.params.quads import ColourIfAny, Corners, Size
from glyptic.params.scalar import Choice, Real, Reference, Text, Toggle, Whole

__all__ = [
    "REQUIRED",
    "Angle",
    "Choice",
    "Colour",
    "ColourIfAny",
    "Colours",
    "Coordinate",
    "Corners",
    "CurvePoints",
    "GradientStops",
    "Group",
    "Hue",
    "Length",
    "Param",
    "Point",
    "Points",
    "Polygon",
    "Radii",
    "Real",
    "Recolour",
    "Reference",
    "Scale",
    "Schema",
    "Shift",
    "Size",
    "Text",
    "Toggle",
    "Turn",
    "Values",
    "Whole",
]
