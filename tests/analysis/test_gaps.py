"""Gaps, spill and halos of masks that were made faulty on purpose."""

import numpy as np
import pytest

from glyptic.analysis.gaps import halos, specks
from glyptic.base.rectangles import Rect

WIDTH, HEIGHT = 400, 300


@pytest.fixture
def gappy():
    """Shown on the left, with a hole of 9 by 7 and a large one; hidden on the right, with a speck of 5 by 5."""
    mask = np.zeros((HEIGHT, WIDTH), np.uint8)
    mask[:, :200] = 255
    mask[50:57, 30:39] = 40
    mask[120:200, 40:120] = 0
    mask[80:85, 300:305] = 255
    mask[0:4, 100:104] = 0
    return mask


def test_gaps_and_spill_up_to_a_size_are_found_where_they_are(gappy):
    [gap] = specks(gappy, "gap", 20).places
    assert (gap.rect, gap.pixels) == (Rect(30, 50, 9, 7), 63)
    assert [place.pixels for place in specks(gappy, "gap", 100).places] == [6400, 63]
    [spill] = specks(gappy, "spill", 20).places
    assert spill.rect == Rect(300, 80, 5, 5)


def test_what_closes_a_gap_covers_it_and_its_rim_and_leaves_nothing_to_find(gappy):
    found = specks(gappy, "gap", 20)
    closes = found.covered([0])
    assert (closes[50:57, 30:39] == 255).all() and closes.sum() <= 255 * 15 * 13
    assert not specks(np.maximum(gappy, closes), "gap", 20).places
    drops = specks(gappy, "spill", 20).covered([0])
    assert not specks(np.where(drops > 0, 0, gappy).astype(np.uint8), "spill", 20).places


def test_a_ring_and_what_lies_in_it_are_told_apart():
    y, x = np.mgrid[0:100, 0:100]
    far = np.hypot(x - 50, y - 50)
    mask = np.where(((far > 20) & (far < 26)) | (far < 5), 0, 255).astype(np.uint8)
    found = specks(mask, "gap", 60)
    assert len(found.places) == 2
    for i, place in enumerate(found.places):
        assert found.number_at(*place.at) == found.numbers[i] and found.covered([i])[place.at[::-1]] == 255
    assert found.number_at(50, 36) == 0 and found.number_at(-1, 0) == -1


def test_a_hole_at_the_border_is_the_borders(gappy):
    assert all(place.rect.y > 0 for place in specks(gappy, "gap", 20).places)


def halo_of(shift, feather=0):
    """The halos of a mask whose border lies `shift` pixels to the right of a picture's strong edge at x = 200."""
    x = np.tile(np.arange(WIDTH) + 0.5, (HEIGHT, 1))
    tones = np.where(x < 200, 0.3, 0.7).astype(np.float32)
    mask = np.clip((200 + shift - x) / max(feather, 1) + 0.5, 0, 1).astype(np.float32)
    return halos(tones, mask, np.full_like(tones, 0.2))


def test_a_mask_that_keeps_to_the_edge_has_no_halo():
    assert halo_of(0) == [] and halo_of(0, feather=2) == []


@pytest.mark.parametrize(("shift", "kind"), [(5, "over"), (8, "over"), (-5, "short"), (-8, "short")])
def test_a_mask_beside_the_edge_bleeds_over_or_falls_short(shift, kind):
    [place] = halo_of(shift)
    assert place.kind == kind and place.rect.h > 0.9 * HEIGHT and abs(place.rect.x - 200) <= 3


def test_a_soft_border_away_from_any_edge_is_no_halo():
    x = np.tile(np.arange(WIDTH) + 0.5, (HEIGHT, 1))
    assert halos(np.full_like(x, 0.5, np.float32), (x < 100).astype(np.float32), np.ones_like(x, np.float32)) == []


def test_more_edges_than_opencv_looks_up_in_a_row_are_looked_at():
    """An ordinary photograph has hundreds of thousands of pixels on edges."""
    y, x = np.mgrid[0:1200, 0:1200]
    tones = np.where((x // 12 + y // 12) % 2, 0.3, 0.7).astype(np.float32)
    mask = (x < 605).astype(np.float32)
    found = halos(tones, mask, np.full_like(tones, 0.2))
    assert found and {place.kind for place in found} <= {"over", "short"}
