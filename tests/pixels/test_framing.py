"""A frame's kernel looks at nothing beyond the planes it was given, wherever its border falls on the picture."""

import numpy as np
import pytest

from glyptic.base.homography import Homography
from glyptic.base.rectangles import Rect
from glyptic.pixels.framing import _aim, framed

ONTO = Homography.affine(0.999, -0.05, 40.0, 0.05, 0.999, 30.0)
COLOURS = (np.array([0.5, 0.25, 0.75], np.float32), np.array([0.1, 0.2, 0.3], np.float32))


@pytest.mark.parametrize(
    "at", [Rect(60, 50, 40, 30), Rect(0, 0, 1, 1), Rect(70, 60, 3, 90)], ids=["part", "none", "slim"]
)
def test_sixteen_pixels_are_read_only_where_the_planes_hold_all_of_them(at):
    n = 200
    spots, wx, wy = np.empty(n, np.int64), np.empty((4, n), np.float32), np.empty((4, n), np.float32)
    planes, size = np.array([at.x, at.y, at.w, at.h]), np.array([400, 300])
    found = 0
    for y in range(0, 150, 7):
        _aim(np.array(ONTO.rows), -20, y + 0.5, planes, size, spots, wx, wy)
        inside = spots[spots >= 0]
        found += inside.size
        assert np.all(inside % at.w + 3 < at.w) and np.all(inside // at.w + 3 < at.h)
        assert np.all(spots >= -1)
    assert bool(found) == (at.w > 3)


def test_a_border_around_a_crop_of_a_larger_picture_is_the_borders_colour():
    px = np.ones((3, 1, 1), np.float32)
    sheet = framed(
        px,
        Rect(0, 0, 0, 0),
        Rect(0, 0, 400, 300),
        ONTO,
        (500.0, 500.0, 600.0, 600.0),
        COLOURS,
        Rect(0, 0, 64, 64),
        False,
    )
    assert np.all(sheet == COLOURS[1][:, None, None])
