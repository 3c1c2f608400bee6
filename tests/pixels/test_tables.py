"""Tables and the powers under them, against NumPy in float64."""

import numpy as np
import pytest

from glyptic.pixels.tables import make_table, through
from glyptic.pixels.transfer import encoded, linear
from glyptic.pixels.vector import cube_root, exp2, power_5_12, power_12_5


def test_two_to_the_power_is_true_to_a_millionth():
    for x in np.linspace(-30, 30, 601).astype(np.float32):
        assert exp2(x) == pytest.approx(2.0 ** float(x), rel=1e-6)


@pytest.mark.parametrize(("function", "p"), [(cube_root, 1 / 3), (power_12_5, 12 / 5), (power_5_12, 5 / 12)])
def test_the_powers_of_colour_are_true_to_a_millionth(function, p):
    x = np.concatenate([[0], np.geomspace(1e-6, 40, 4000)]).astype(np.float32)
    found = np.array([function(value) for value in x])
    assert found[0] == 0
    assert function(np.float32(1)) == 1
    assert np.abs(found[1:] / x[1:].astype(np.float64) ** p - 1).max() < 1e-6


@pytest.mark.parametrize("function", [
    lambda x: encoded(linear(x) * 1.7),
    lambda x: np.clip((x - 0.499) / 0.002, 0, 1),
    lambda x: 1 - x,
])  # fmt: skip
def test_a_table_is_the_function_also_where_it_is_steep_and_beyond_its_ends(function):
    px = np.linspace(-3, 5, 60000, dtype=np.float32).reshape(1, 200, 300)
    done = px.copy()
    through(done, np.ones(px.shape[1:], np.float32), (make_table(function),))
    assert np.abs(done - function(px.astype(np.float64))).max() < 2.5e-4


def test_no_alpha_keeps_every_bit():
    px = np.linspace(-3, 5, 600, dtype=np.float32).reshape(1, 20, 30)
    done = px.copy()
    through(done, np.zeros(px.shape[1:], np.float32), (make_table(lambda x: 1 - x),))
    assert np.array_equal(done, px)
