"""The working space against the standard's own figures."""

import numpy as np
import pytest
from skimage.color import rgb2lab

from glyptic.pixels.oklab import oklab
from glyptic.pixels.srgb import enc, lin, luminance, luminance_of, tone, tone_of
from tests.conftest import colourful
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
    assert np.abs(tone(px) - expected).max() < 1e-4
    assert tone(np.ones((3, 1, 1), np.float32))[0, 0] == pytest.approx(1, abs=FLOAT32)


def test_tone_and_luminance_are_inverse():
    for y in np.linspace(0, 2, 101):
        assert luminance_of(tone_of(y)) == pytest.approx(y, rel=FLOAT32, abs=FLOAT32)


def test_negative_luminance_counts_as_none():
    assert luminance(-0.5, -0.5, -0.5) == 0


@pytest.mark.parametrize(
    ("rgb", "lab"),
    [((1, 0, 0), (0.62796, 0.22486, 0.12585)), ((0, 1, 0), (0.86644, -0.23389, 0.17950)),
     ((0, 0, 1), (0.45201, -0.03246, -0.31153)), ((1, 1, 1), (1, 0, 0)), ((2, -1, -1), (0.62796, 0.22486, 0.12585))],
)  # fmt: skip
def test_oklab_of_css_color_4(rgb, lab):
    assert oklab(*map(float, rgb)) == pytest.approx(lab, abs=1e-4)
