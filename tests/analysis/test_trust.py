"""Where a curve loses contrast, inverts or clips is found with the share of pixels there, and mended by little."""

import numpy as np
import pytest

from glyptic.adjust.curves import sampled
from glyptic.analysis.trust import LEAST, mended, stretches
from glyptic.pixels.counts import BINS

EVEN = np.ones(BINS)
FLAT = ((0.0, 0.0), (0.4, 0.5), (0.7, 0.51), (1.0, 1.0))
FALLING = ((0.0, 0.0), (0.3, 0.7), (0.6, 0.4), (1.0, 1.0))


def test_a_straight_line_and_a_gentle_curve_can_be_trusted():
    assert not stretches(((0.0, 0.0), (1.0, 1.0)), EVEN)
    assert not stretches(((0.0, 0.0), (0.25, 0.18), (0.75, 0.84), (1.0, 1.0)), EVEN)


def test_a_flat_stretch_is_found_with_the_pixels_that_lie_in_it():
    [found] = stretches(FLAT, EVEN)
    assert found.kind == "flat" and 0.35 < found.low < 0.45 and 0.65 < found.high < 0.75
    assert found.share == pytest.approx(found.high - found.low, abs=1e-6)
    dark = np.where(np.arange(BINS) < BINS * 0.3, 1.0, 0.0)
    assert stretches(FLAT, dark)[0].share == 0


def test_a_fall_is_told_from_a_flat_stretch():
    assert [found.kind for found in stretches(FALLING, EVEN) if found.high - found.low > 0.1] == ["falling"]


def test_ends_that_clip_are_marked():
    found = stretches(((0.1, 0.0), (0.9, 1.0)), EVEN)
    assert [f.kind for f in found] == ["clipped", "clipped"]
    assert (found[0].high, found[1].low) == pytest.approx((0.1, 0.9), abs=2e-3)


@pytest.mark.parametrize("points", [FLAT, FALLING, ((0.0, 0.0), (0.2, 0.0), (1.0, 1.0)), ((0.0, 1.0), (1.0, 0.0))])
def test_mending_moves_the_two_nearest_points_and_no_more_than_it_takes(points):
    worst = max(stretches(points, EVEN), key=lambda f: f.high - f.low)
    better = mended(points, worst.low, worst.high)
    moved = [i for i, (a, b) in enumerate(zip(points, better, strict=True)) if a != b]
    assert 1 <= len(moved) <= 2 and moved[-1] - moved[0] <= 1
    inside = slice(round(worst.low * 1000), round(worst.high * 1000) + 1)
    assert np.diff(sampled(better, 1001)[inside]).min() * 1000 >= LEAST * 0.99
    less = tuple((x, y + 0.9 * (new - y)) for (x, y), (_, new) in zip(points, better, strict=True))
    assert np.diff(sampled(less, 1001)[inside]).min() * 1000 < LEAST


def test_an_end_that_clips_is_opened():
    assert mended(((0.1, 0.0), (0.9, 1.0)), 0.0, 0.1) == ((0.0, 0.0), (0.9, 1.0))
