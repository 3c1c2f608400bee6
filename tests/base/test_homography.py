"""Homographies: composed, inverted and told apart, against NumPy."""

import numpy as np
import pytest

from glyptic.base.homography import Homography

TURNED = Homography.affine(0.8, -0.6, 12.0, 0.6, 0.8, -3.0)
LEANING = Homography(((1.1, 0.2, 5.0), (-0.1, 0.9, 8.0), (1e-4, -2e-4, 1.0)))
ALL = [Homography.shift(3.0, -7.5), TURNED, LEANING, Homography.affine(-1, 0, 90, 0, 1, 0)]


@pytest.mark.parametrize("first", ALL)
@pytest.mark.parametrize("then", ALL)
def test_one_after_the_other_is_the_product(first, then):
    assert np.allclose(then.after(first).rows, np.array(then.rows) @ np.array(first.rows))
    assert then.after(first).at(13.0, 40.0) == pytest.approx(then.at(*first.at(13.0, 40.0)))


@pytest.mark.parametrize("one", ALL)
def test_the_inverse_carries_back(one):
    assert one.inverse.at(*one.at(31.0, -8.0)) == pytest.approx((31.0, -8.0))


def test_what_keeps_shapes_is_known():
    assert [one.likeness for one in ALL] == [1.0, pytest.approx(1.0), None, 1.0]
    assert [one.is_shift for one in ALL] == [True, False, False, False]
    assert [one.is_mirrored for one in ALL] == [False, False, False, True]
    assert TURNED.turn == pytest.approx(np.degrees(np.arctan2(0.6, 0.8)))
    assert (
        Homography.affine(2, 0, 0, 0, 1, 0).likeness is None and Homography.affine(1, 0.5, 0, 0, 1, 0).likeness is None
    )
