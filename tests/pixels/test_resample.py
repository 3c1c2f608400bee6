"""Placed pictures: identity, enlarging by the cubic kernel, reducing by area, turning."""

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from glyptic.base.homography import Homography
from glyptic.base.rectangles import Rect
from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.pixels.resample import place, sampled
from glyptic.pixels.shapes import Patch
from tests.conftest import colourful, picture_of
from tests.tolerances import FLOAT32

W, H = 60, 40


@pytest.fixture
def small():
    return picture_of(colourful(W, H))


def placed(picture, centre, scale=1.0, rotation=0.0, width=W, height=H, level=0):
    return place(
        picture, Patch(Rect(0, 0, width, height), level, width << level, height << level), centre, scale, rotation
    )


def values(picture):
    return picture.colour.full / 65535


def test_centred_at_its_own_size_is_the_picture_itself(small):
    colour, cover = placed(small, (W / 2, H / 2))
    assert np.abs(colour - values(small)).max() < FLOAT32 and (cover == 1).all()


def test_a_quarter_turn_moves_pixels_without_changing_them(small):
    colour, cover = placed(small, (H / 2, W / 2), rotation=90, width=H, height=W)
    assert np.abs(colour - np.rot90(values(small), -1, (1, 2))).max() < 1e-5 and (cover > 0.9999).all()


def keys_cubic(t):
    t = abs(t)
    return 1.5 * t**3 - 2.5 * t**2 + 1 if t <= 1 else max(0, -0.5 * t**3 + 2.5 * t**2 - 4 * t + 2) if t == 2 else (
        -0.5 * t**3 + 2.5 * t**2 - 4 * t + 2 if t < 2 else 0)  # fmt: skip


def test_enlarging_samples_the_cubic_kernel(small):
    colour, _ = placed(small, (W, H), scale=2, width=2 * W, height=2 * H)
    x, y = 37, 22
    u, v = (x + 0.5) / 2 - 0.5, (y + 0.5) / 2 - 0.5
    expected = sum(
        keys_cubic(u - i) * keys_cubic(v - j) * values(small)[:, j, i]
        for i in range(int(u) - 1, int(u) + 3) for j in range(int(v) - 1, int(v) + 3)
    )  # fmt: skip
    assert np.abs(colour[:, y, x] - expected).max() < 1e-5


def test_reducing_averages_over_area(small):
    colour, cover = placed(small, (W / 4, H / 4), scale=0.5, width=W // 2, height=H // 2)
    expected = values(small).reshape(3, H // 2, 2, W // 2, 2).mean((2, 4))
    assert np.abs(colour - expected).max() < 1e-5 and np.abs(cover - 1).max() < 1e-6


def test_reducing_and_turning_keep_the_whole_amount(small):
    colour, cover = placed(small, (50, 50), scale=0.7, rotation=31, width=100, height=100)
    assert cover.sum() == pytest.approx(W * H * 0.49, rel=1e-4)
    assert (colour * cover).sum() == pytest.approx(values(small).sum() * 0.49, rel=1e-4)


def test_outside_is_transparent(small):
    _, cover = placed(small, (1000, 1000))
    assert not cover.any()


def test_transparent_pixels_bring_no_colour():
    codes = colourful(W, H)
    codes[:, :, 30:] = 65535
    alpha = np.zeros((1, H, W), np.uint16)
    alpha[:, :, :30] = 65535
    picture = Picture(Pyramid(codes), b"a", Pyramid(alpha))
    colour, cover = placed(picture, (W / 2 + 0.5, H / 2), rotation=1)
    assert colour[:, 20, 20].max() < 0.9 and cover[20, 50] == 0


def test_a_leaning_matrix_reads_the_picture_where_it_leads():
    """Against SciPy's interpolation of a smooth picture, at the places that NumPy works out."""
    y, x = np.mgrid[0:90, 0:120]
    smooth = np.stack([0.5 + 0.4 * np.sin(x / 17), 0.5 + 0.4 * np.cos(y / 13), (x + y) / 210])
    picture = picture_of((smooth * 65535 + 0.5).astype(np.uint16))
    onto = Homography(((0.9, 0.12, 6.0), (-0.08, 0.85, 9.0), (6e-4, -4e-4, 1.0)))
    found, cover = sampled(picture, Patch(Rect(10, 8, 60, 40), 0, 120, 90), onto, 0.9)
    j, i = np.meshgrid(np.arange(10, 70) + 0.5, np.arange(8, 48) + 0.5)
    at = np.einsum("ab,bij->aij", np.array(onto.rows), np.stack([j, i, np.ones_like(i)]))
    u, v = at[0] / at[2] - 0.5, at[1] / at[2] - 0.5
    expected = np.stack([map_coordinates(plane, [v, u], order=3) for plane in smooth])
    assert np.allclose(cover, 1, atol=1e-6) and np.abs(found - expected).max() < 2e-3


def test_whole_steps_and_quarter_turns_copy_bits():
    picture = picture_of(colourful(40, 30))
    codes = picture.colour.full.astype(np.float32) / np.float32(65535)
    shifted, _ = sampled(picture, Patch(Rect(0, 0, 20, 10), 0, 40, 30), Homography.shift(5.0, 7.0), 1.0)
    assert np.array_equal(shifted, codes[:, 7:17, 5:25])
    turned, _ = sampled(picture, Patch(Rect(0, 0, 30, 40), 0, 30, 40), Homography.affine(0, 1, 0, -1, 0, 30.0), 1.0)
    assert np.array_equal(turned, np.rot90(codes, -1, (1, 2)))
