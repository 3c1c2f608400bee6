"""Levels: the mean of level 0's pixels that exist in each block, rounded once."""

import numpy as np
import pytest

from glyptic.base.rectangles import Rect, level_size, step_of
from glyptic.pixels.pyramid import Pyramid, every_level
from glyptic.pixels.quantise import to_codes
from tests.conftest import overlaps


@pytest.mark.parametrize("level", [1, 2, 5])
def test_levels_are_means_rounded_once(level):
    codes = np.random.default_rng(3).integers(0, 65536, (3, 45, 70), dtype=np.uint16)
    step = 1 << level
    got = Pyramid(codes).codes(level)
    assert got.shape == (3, -(-45 // step), -(-70 // step))
    for i in range(got.shape[1]):
        for j in range(got.shape[2]):
            block = codes[:, i * step : (i + 1) * step, j * step : (j + 1) * step].astype(np.int64)
            count = block[0].size
            expected = (2 * block.sum((1, 2)) + count) // (2 * count)
            assert np.array_equal(got[:, i, j], expected)


def test_codes_survive_the_way_through_values():
    codes = np.arange(65536, dtype=np.uint16).reshape(1, 256, 256)
    values = Pyramid(codes).codes(0) / np.float32(65535)
    assert np.array_equal(to_codes(values, 16)[:, :, 0], codes[0])
    eight = np.arange(256, dtype=np.uint16).reshape(1, 16, 16) * 257
    assert np.array_equal(to_codes(eight / np.float32(65535), 8)[:, :, 0], eight[0] // 257)


def test_output_is_rounded_half_up_and_clamped():
    values = np.array([[[-1, 0.5 / 255, 1.4 / 255, 0.5, 7]]], np.float32)
    assert to_codes(values, 8)[0, :, 0].tolist() == [0, 1, 1, 128, 255]


@pytest.mark.parametrize(("width", "height"), [(300, 280), (257, 130), (1, 9), (64, 64), (515, 3)])
def test_every_level_at_once_is_each_by_itself(width, height):
    codes = np.random.default_rng(width).integers(0, 65536, (3, height, width)).astype(np.uint16)
    codes[0] = 65535
    for level, made in enumerate(every_level(codes, 9)):
        assert np.array_equal(made, Pyramid(codes).codes(level)), level


@pytest.mark.parametrize("level", [np.log2(1.04), np.log2(1.5), np.log2(2.857), 2.0001, np.log2(7.143)])
def test_between_levels_a_pixel_is_the_mean_of_what_it_covers(level):
    """Below level 2 that of full size; further out, where wholes are gathered, nearly so."""
    codes = np.random.default_rng(5).integers(0, 65536, (3, 131, 94), dtype=np.uint16)
    if level > 2:
        codes = np.sort(np.sort(codes, 1), 2)
    width, height = level_size(94, 131, level)
    down, across = overlaps(height, step_of(level), 131), overlaps(width, step_of(level), 94)
    wanted = np.einsum("iy,jx,cyx->cij", down / down.sum(1)[:, None], across / across.sum(1)[:, None], codes) / 65535
    pyramid = Pyramid(codes)
    whole = pyramid.read(Rect(0, 0, width, height), level)
    assert np.abs(whole - wanted)[..., :-1].max() < (1e-6 if level < 2 else 5e-3)
    part = Rect(3, 5, 7, 6)
    assert np.array_equal(pyramid.read(part, level), whole[:, part.y : part.bottom, part.x : part.right])
