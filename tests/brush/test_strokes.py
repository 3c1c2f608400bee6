"""Strokes: where dabs lie, what they cover, and how well levels agree."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from glyptic.base.rectangles import Rect, level_size
from glyptic.brush.coverage import coverage, drawn_level, touched
from glyptic.brush.dabs import lay_dabs
from glyptic.document.values import Drives, Stroke, StrokePoints
from glyptic.pixels.shapes import Patch
from tests.conftest import overlaps
from tests.oracle.whole import dabs as oracle_dabs

SIDE = 256
LEVELS_AGREE = {"mean": 0.003, "worst": 0.03}
"""How well a stroke drawn at a level agrees with one drawn at full size and reduced (docs/performance.md)."""


def stroke(points, size=40.0, hardness=0.0, opacity=1.0, flow=1.0, **more):
    return Stroke(StrokePoints.of(points), size, hardness, opacity, flow, **more)


def patch(level=0, side=SIDE):
    return Patch(Rect(0, 0, side >> level, side >> level), level, side, side)


coordinates = st.floats(-300, 600, allow_nan=False)
points_of_a_hand = st.lists(st.tuples(coordinates, coordinates, st.floats(0, 1)), min_size=1, max_size=12)


@settings(max_examples=60, deadline=None)
@given(points_of_a_hand, st.floats(0.5, 200), st.floats(0, 1.5), st.booleans())
def test_dabs_lie_where_the_contract_says(points, size, spacing, by_size):
    drawn = stroke(points, size=size, spacing=spacing, pressure=Drives(size=by_size))
    plain = {"points": [list(p) for p in points], "size": size, "spacing": spacing, "pressure": {"size": by_size}}
    expected = np.array(oracle_dabs(plain))[:, :2]
    got = lay_dabs(drawn)
    assert abs(len(got) - len(expected)) <= 1
    both = min(len(got), len(expected))
    assert np.abs(got[:both, :2] - expected[:both]).max() < 1e-6


@settings(max_examples=40, deadline=None)
@given(points_of_a_hand, st.integers(1, 11))
def test_points_that_come_later_move_no_dab(points, cut):
    whole, early = lay_dabs(stroke(points)), lay_dabs(stroke(points[: min(cut, len(points))]))
    assert np.array_equal(whole[: len(early)], early)


def test_within_one_stroke_coverage_never_passes_the_opacity():
    zigzag = [(60 + 80 * (i % 2), 100 + i, 1.0) for i in range(40)]
    s = coverage(stroke(zigzag, opacity=0.3, flow=0.6), patch())
    assert 0.29 < s.max() <= 0.3


def test_a_dab_has_the_profile_of_the_contract():
    s = coverage(stroke([(128.5, 128.5, 1.0)], size=100, hardness=0.5), patch())
    for distance, u in ((0, 1), (20, 1), (25, 1), (37.5, 0.5), (45, 0.2), (50, 0)):
        x = 128 + round(distance)
        d = abs(x + 0.5 - 128.5)
        expected = min(max((37.5 - d) / 25 + 0.5, 0), 1)
        assert s[128, x] == pytest.approx(expected**2 * (3 - 2 * expected), abs=1e-6)
        assert abs(expected - u) < 0.05


@pytest.mark.parametrize("driven", ["size", "opacity", "flow"])
def test_pressure_drives_what_it_is_told_to(driven):
    points = [(60.0, 128.0, 0.2), (200.0, 128.0, 1.0)]
    s = coverage(stroke(points, flow=0.4, opacity=0.8, pressure=Drives(**{driven: True})), patch())
    plain = coverage(stroke(points, flow=0.4, opacity=0.8), patch())
    light, firm = s[:, :100].sum() / plain[:, :100].sum(), s[:, 180:].sum() / plain[:, 180:].sum()
    assert light < 0.85 and firm > light + 0.1


@pytest.mark.parametrize(
    ("size", "hardness", "level", "expected"),
    [(200, 0, 2, 2), (60, 0, 2, 1), (60, 0.9, 3, 0), (4, 0, 3, 0), (64, 1, 5, 0)],
)
def test_small_or_hard_strokes_are_drawn_at_a_finer_level(size, hardness, level, expected):
    assert drawn_level(stroke([(0, 0, 1)], size=size, hardness=hardness), level) == expected


@pytest.mark.parametrize("hardness", [0.0, 0.5, 1.0])
@pytest.mark.parametrize("size", [6.0, 50.0, 150.0])
@pytest.mark.parametrize("level", [1, 2, 3])
def test_levels_agree(level, size, hardness):
    drawn = stroke([(50, 60, 1.0), (140, 200, 1.0), (210, 80, 1.0)], size=size, hardness=hardness, flow=0.5)
    fine, coarse = coverage(drawn, patch()), coverage(drawn, patch(level))
    k = 1 << level
    reduced = fine.reshape(SIDE // k, k, SIDE // k, k).mean((1, 3))
    difference = np.abs(reduced - coarse)
    assert difference.mean() < LEVELS_AGREE["mean"] and difference.max() < LEVELS_AGREE["worst"]


@settings(max_examples=40, deadline=None)
@given(points_of_a_hand, st.floats(1, 120), st.floats(0, 1), st.integers(0, 3))
def test_nothing_is_touched_outside_the_stated_area(points, size, hardness, level):
    drawn = stroke(points, size=size, hardness=hardness)
    s = coverage(drawn, patch(level))
    area = touched(drawn, level).meet(patch(level).rect)
    s[area.y : area.bottom, area.x : area.right] = 0
    assert s.max() == 0


@pytest.mark.parametrize("step", [1.3, 2.857, 7.143])
@pytest.mark.parametrize("size", [6.0, 50.0, 150.0])
def test_levels_between_agree_too(step, size):
    """With the stroke at full size, averaged over what each pixel covers."""
    level = np.log2(step)
    drawn = stroke([(50, 60, 1.0), (140, 200, 1.0), (210, 80, 1.0)], size=size, hardness=0.5, flow=0.5)
    side, _ = level_size(SIDE, SIDE, level)
    coarse = coverage(drawn, Patch(Rect(0, 0, side, side), level, SIDE, SIDE))
    shares = overlaps(side, step, SIDE)
    shares /= shares.sum(1)[:, None]
    difference = np.abs(shares @ coverage(drawn, patch()) @ shares.T - coarse)
    assert difference.mean() < LEVELS_AGREE["mean"] and difference.max() < LEVELS_AGREE["worst"]


def test_a_part_of_a_stroke_is_bit_for_bit_the_whole():
    drawn = stroke([(20, 30, 1.0), (240, 200, 0.4)], size=30, hardness=0.9, pressure=Drives(size=True))
    for level in (0, 2):
        whole = coverage(drawn, patch(level))
        rect = Rect(13 >> level, 50 >> level, 100 >> level, 90 >> level)
        part = coverage(drawn, Patch(rect, level, SIDE, SIDE))
        assert np.array_equal(part, whole[rect.y : rect.bottom, rect.x : rect.right])
