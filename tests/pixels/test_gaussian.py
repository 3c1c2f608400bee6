"""The Gaussian against SciPy's, narrow and wide, and free of where it was asked for."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from glyptic.pixels.gaussian import blur, reach, reduction, reflected
from tests.tolerances import FLOAT32, GAUSSIAN


def whole(px, sigma, x=0, y=0, w=None, h=None):
    """Blur a rectangle of a picture (c, H, W) with its apron reflected at the borders."""
    _, height, width = px.shape
    w, h = w or width, h or height
    margin = reach(sigma)
    xs, ys = reflected(x - margin, w + 2 * margin, width), reflected(y - margin, h + 2 * margin, height)
    return blur(np.ascontiguousarray(px[:, ys][:, :, xs]), x - margin, y - margin, sigma)


@pytest.fixture
def px():
    """Noise and hard edges: what a reduction could get wrong."""
    rng = np.random.default_rng(2)
    noise = rng.random((2, 170, 231), np.float32)
    noise[1, 60:, 90:] = 1
    noise[1, :60] = 0
    return noise


@pytest.mark.parametrize("sigma", [0.4, 1, 3.7, 7.9, 8, 9, 16, 20, 33.3, 60])
def test_agrees_with_scipy(px, sigma):
    expected = np.stack([gaussian_filter(plane.astype(float), sigma, mode="reflect", truncate=6) for plane in px])
    assert np.abs(whole(px, sigma) - expected).max() < (GAUSSIAN if reduction(sigma) > 1 else 10 * FLOAT32 + 3e-5)


@pytest.mark.parametrize("sigma", [2, 14, 30])
def test_a_rectangle_is_bit_for_bit_the_whole(px, sigma):
    part = whole(px, sigma, 37, 21, 100, 64)
    assert np.array_equal(part, whole(px, sigma)[:, 21:85, 37:137])


def test_reflection_repeats_the_border_pixel():
    assert reflected(-3, 10, 4).tolist() == [2, 1, 0, 0, 1, 2, 3, 3, 2, 1]
