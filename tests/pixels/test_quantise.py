"""Values to codes, against NumPy."""

import numpy as np
import pytest

from glyptic.base.errors import Undefined
from glyptic.pixels.quantise import canvas, narrowed, onto_canvas, to_codes


@pytest.mark.parametrize("depth", [8, 16])
@pytest.mark.parametrize("channels", [1, 3])
def test_every_code_comes_back_as_it_was_and_what_lies_beyond_is_held(depth, channels):
    most = 2**depth - 1
    codes = np.arange(most + 1).reshape(1, 1 << depth // 2, -1)
    px = np.concatenate([(codes / most).astype(np.float32)] * channels)
    px[:, 0, 0], px[:, -1, -1] = -0.3, 1.7
    assert np.array_equal(to_codes(px, depth), np.moveaxis(np.concatenate([codes] * channels), 0, 2))


@pytest.mark.parametrize("depth", [8, 16])
def test_codes_are_rounded_half_up(depth):
    most = 2**depth - 1
    px = np.random.default_rng(3).uniform(-0.1, 1.1, (3, 90, 70)).astype(np.float32)
    exact = np.moveaxis(np.clip(px.astype(float), 0, 1) * most, 0, 2)
    assert np.abs(to_codes(px, depth) - exact).max() <= 0.5 + 4e-3
    assert np.array_equal(to_codes(px[:, 5:40, 7:33], depth), to_codes(px, depth)[5:40, 7:33])


def test_eight_bits_are_the_same_whether_sixteen_were_kept_first():
    """At every value there is half a step of 16 bits to either side of a code, and at all the borders of 8."""
    steps = np.arange(0, 2 * 65535 + 1, dtype=np.float64) / (2 * 65535)
    px = np.nextafter(steps, steps + np.random.default_rng(1).choice([-1, 0, 1], steps.size)).astype(np.float32)[
        None, None
    ]
    sixteen = to_codes(px, 16)
    narrow = np.empty(sixteen.shape, np.uint8)
    narrowed(sixteen, narrow)
    assert np.array_equal(narrow, to_codes(px, 8)) and np.array_equal(narrow, (sixteen.astype(int) + 128) // 257)


def test_a_piece_of_a_canvas_has_the_codes_of_an_export_and_no_other_is_touched():
    px = np.random.default_rng(4).uniform(-0.2, 1.2, (3, 37, 53)).astype(np.float32)
    whole = canvas(60, 80)
    whole[:] = 7
    onto_canvas(px, 11, 13, whole)
    piece = whole[13:50, 11:64].copy()
    assert np.array_equal(piece[:, :, :3], to_codes(px, 8)) and (piece[:, :, 3] == 255).all()
    whole[13:50, 11:64] = 7
    assert (whole == 7).all()
    px[1, 36, 52] = np.nan
    with pytest.raises(Undefined):
        onto_canvas(px, 0, 0, whole)
