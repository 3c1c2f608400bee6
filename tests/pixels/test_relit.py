"""Light scaled by straight lines, against the transfer function itself in float64."""

import numpy as np
import pytest

from glyptic.pixels.compiled import kernel
from glyptic.pixels.relit import relight
from glyptic.pixels.transfer import encoded, linear
from tests.tolerances import FLOAT32


@kernel
def relit(x, gain, root, out):
    relight(x, gain, root, out)


@pytest.mark.parametrize("stops", [-6, -1.5, 0, 0.7, 5])
def test_scaling_light_is_the_transfer_function_there_and_back(stops):
    """Across the knee both ways, below 0 and above 1."""
    x = np.linspace(-0.3, 1.6, 2001, dtype=np.float32)
    gain = np.full_like(x, 2.0**stops)
    out = np.empty_like(x)
    relit(x, gain, gain ** np.float32(1 / 2.4), out)
    assert np.abs(out - encoded(linear(x) * 2.0**stops)).max() < FLOAT32 * max(1, 2.0 ** (stops / 2.4))


def test_a_pixel_does_not_depend_on_whether_its_neighbours_cross_the_knee():
    x = np.full(64, 0.5, np.float32)
    gain = np.full(64, 1.3, np.float32)
    alone, beside = np.empty_like(x), np.empty_like(x)
    relit(x, gain, gain ** np.float32(1 / 2.4), alone)
    x[10] = 0.04
    relit(x, gain, gain ** np.float32(1 / 2.4), beside)
    assert np.array_equal(np.delete(alone, 10), np.delete(beside, 10))
