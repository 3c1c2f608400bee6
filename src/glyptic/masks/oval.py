"""Oval: an elliptical fall-off."""

from __future__ import annotations

from math import cos, hypot, radians, sin
from typing import Any, ClassVar

import numpy as np

from glyptic.masks.part import Drawn, at_corners, misses
from glyptic.params import Point, Radii, Schema, Toggle, Turn, Values
from glyptic.params.scalar import share
from glyptic.pixels.compiled import Plane
from glyptic.pixels.shapes import Patch, oval


class Oval(Drawn):
    """1 − smoothstep(1 − softness, 1, ρ), ρ the distance from the centre in radii; `inside` false inverts."""

    name = "oval"
    title = "Oval"
    summary = "An ellipse with a soft rim."
    starting: ClassVar[dict[str, Any]] = {"softness": 0.5}
    schema = Schema(
        {
            "centre": Point(label="Centre", help="The middle of the ellipse."),
            "radii": Radii(label="Radii", help="Half its width and height."),
            "rotation": Turn(label="Turn", default=0.0, help="Turns the ellipse clockwise."),
            "softness": share("Softness", "The share of the radius over which it fades.", 0.0),
            "inside": Toggle(label="Inside", default=True, help="Covers the inside; off covers the outside."),
        }
    )

    def coverage(self, settings: Values, patch: Patch) -> Plane:
        p = oval(patch, settings["centre"], settings["radii"], settings["rotation"], settings["softness"])
        return p if settings["inside"] else np.float32(1) - p

    def known(self, settings: Values, patch: Patch) -> float | None:
        """Nothing beside the ellipse; all of it where the corners lie within, for it is convex."""
        (x, y), (a, b), turn = settings["centre"], settings["radii"], radians(settings["rotation"])
        across, down = hypot(a * cos(turn), b * sin(turn)), hypot(a * sin(turn), b * cos(turn))
        outside, inside = (0.0, 1.0) if settings["inside"] else (1.0, 0.0)
        if misses(patch, x - across, y - down, x + across, y + down):
            return outside
        return inside if set(at_corners(self, settings, patch)) == {inside} else None


OVAL = Oval()
