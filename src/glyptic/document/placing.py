"""Where a picture lies: its corners, and what carries what is drawn on it along when it is laid elsewhere."""

from __future__ import annotations

from math import cos, radians, sin

from glyptic.base.homography import Homography, Quad
from glyptic.document.values import Place


def corners_of(place: Place, width: float, height: float) -> Quad:
    """Where the corners of a picture of a size lie: top left, top right, bottom right, bottom left."""
    if place.corners is not None:
        return place.corners
    turn = radians(place.rotation)
    across, down = (
        (place.scale * cos(turn), place.scale * sin(turn)),
        (-place.scale * sin(turn), place.scale * cos(turn)),
    )

    def at(x: float, y: float) -> tuple[float, float]:
        return place.x + x * across[0] + y * down[0], place.y + x * across[1] + y * down[1]

    return (
        at(-width / 2, -height / 2),
        at(width / 2, -height / 2),
        at(width / 2, height / 2),
        at(-width / 2, height / 2),
    )


def moved(old: Place, new: Place) -> Homography | None:
    """What carries a picture from where it lay to where it lies; None where that depends on its size."""
    if (old.corners is None) != (new.corners is None):
        return None
    return Homography.onto(corners_of(new, 1, 1), 1, 1).after(Homography.onto(corners_of(old, 1, 1), 1, 1).inverse)
