"""CIEDE2000 against the published pairs and an independent implementation."""

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000, rgb2lab

from glyptic.analysis.difference import apart, lab
from glyptic.pixels.spaces import SRGB

SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425), ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669), ((50, 2.49, -0.001), (50, -2.49, 0.0009), 7.1792),
    ((50, 2.49, -0.001), (50, -2.49, 0.0011), 7.2195), ((50, -0.001, 2.49), (50, 0.0011, -2.49), 4.7461),
    ((50, 2.5, 0), (73, 25, -18), 27.1492), ((50, 2.5, 0), (50, 3.2592, 0.3350), 1.0000),
    ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.6940), (23.0331, 14.9730, -42.5619), 2.0373), ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]  # fmt: skip
"""Of the pairs of Sharma, Wu and Dalal 2005, table 1."""


@pytest.mark.parametrize(("one", "other", "published"), SHARMA)
def test_the_published_pairs(one, other, published):
    pair = (np.array(c, np.float64)[:, None] for c in (one, other))
    assert apart(*pair)[0] == pytest.approx(published, abs=5e-5)


def test_agrees_with_an_independent_implementation():
    rng = np.random.default_rng(2)
    one, other = rng.random((2, 3, 500))
    labs = [rgb2lab(px.T[None])[0] for px in (one, other)]
    assert apart(lab(one, SRGB), lab(other, SRGB)) == pytest.approx(deltaE_ciede2000(*labs), abs=0.02)
