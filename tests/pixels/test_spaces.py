"""The working spaces against the standards' own figures."""

import numpy as np
import pytest
from skimage.color import rgb2lab

from glyptic.pixels.oklab import oklab
from glyptic.pixels.spaces import DISPLAY_P3, SPACES, SRGB, WIDE, carried, holds, luminance, tone
from glyptic.pixels.transfer import enc, lin, luminance_of, tone_of
from tests.conftest import colourful
from tests.oracle.formulas import Colours
from tests.tolerances import FLOAT32


@pytest.mark.parametrize(
    ("encoded", "linear"), [(0, 0), (0.04045, 0.0031308), (0.5, 0.2140411), (0.735357, 0.5), (1, 1), (1.5, 2.5371551)]
)
def test_transfer_function_of_iec_61966(encoded, linear):
    assert lin(encoded) == pytest.approx(linear, abs=1e-6)
    assert enc(linear) == pytest.approx(encoded, abs=1e-5)


def test_transfer_is_odd_and_inverts_beyond_the_range():
    for x in np.linspace(-2, 3, 51):
        assert lin(-x) == -lin(x)
        assert enc(lin(x)) == pytest.approx(x, abs=FLOAT32)


def test_tone_is_lightness():
    px = colourful(40, 30) / np.float32(65535)
    expected = rgb2lab(np.moveaxis(px, 0, 2), illuminant="D65")[:, :, 0] / 100
    assert np.abs(tone(px, SRGB) - expected).max() < 1e-4


def test_tone_and_luminance_are_inverse():
    for y in np.linspace(0, 2, 101):
        assert luminance_of(tone_of(y)) == pytest.approx(y, rel=FLOAT32, abs=FLOAT32)


def test_negative_luminance_counts_as_none():
    assert luminance(-0.5, -0.5, -0.5, SRGB.of) == 0


@pytest.mark.parametrize(
    ("rgb", "lab"),
    [((1, 0, 0), (0.62796, 0.22486, 0.12585)), ((0, 1, 0), (0.86644, -0.23389, 0.17950)),
     ((0, 0, 1), (0.45201, -0.03246, -0.31153)), ((1, 1, 1), (1, 0, 0)), ((2, -1, -1), (0.62796, 0.22486, 0.12585))],
)  # fmt: skip
def test_oklab_of_css_color_4(rgb, lab):
    assert oklab(*map(float, rgb), SRGB.of) == pytest.approx(lab, abs=1e-4)


@pytest.mark.parametrize("space", SPACES.values(), ids=SPACES)
def test_matrices_are_those_css_color_4_publishes(space):
    published = Colours(space.name)
    assert np.abs(space.to_xyz - published.to_xyz).max() < 1e-9
    assert np.array(space.of[3:12], np.float64).reshape(3, 3) == pytest.approx(published.to_lms, abs=1e-7)


@pytest.mark.parametrize("space", SPACES.values(), ids=SPACES)
def test_white_is_white(space):
    assert tone(np.ones((3, 1, 1), np.float32), space)[0, 0] == pytest.approx(1, abs=FLOAT32)
    assert np.float32(np.float32(space.of.red + space.of.green) + space.of.blue) == 1
    one = np.float32(1)
    assert oklab(one, one, one, space.of) == pytest.approx((1, 0, 0), abs=FLOAT32)


@pytest.mark.parametrize(
    ("space", "weights"),
    [(SRGB, (0.2126, 0.7152, 0.0722)), (DISPLAY_P3, (0.2290, 0.6917, 0.0793)), (WIDE, (0.2627, 0.6780, 0.0593))],
)
def test_weights_of_luminance(space, weights):
    assert space.of[:3] == pytest.approx(weights, abs=5e-5)


def test_srgb_lies_in_the_wider_spaces_and_the_purest_red_of_display_p3_just_outside_wide():
    cube = np.stack(np.meshgrid(*[np.linspace(0, 1, 5)] * 3)).reshape(3, -1)
    assert all(holds(cube, SRGB, space) for space in SPACES.values())
    assert not holds(cube, DISPLAY_P3, SRGB) and not holds(cube, WIDE, DISPLAY_P3)
    red = carried(np.array([1.0, 0, 0]), DISPLAY_P3, WIDE)
    assert -0.016 < red.min() < -0.015
    back = carried(carried(cube, SRGB, WIDE), WIDE, SRGB)
    assert np.abs(back - cube).max() < 1e-9
