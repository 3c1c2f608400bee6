"""Areas found by edges, against pictures whose areas are known; counts of what is worked on towards full size."""

import numpy as np
import pytest

from glyptic.analysis import regions
from glyptic.analysis.regions import Scribble
from tests.conftest import picture_of

WIDTH, HEIGHT = 1100, 800
CENTRE, RADIUS = (420, 390), 180
OTHER, OTHER_RADIUS = (700, 420), 110


def disc(centre, radius):
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    return np.clip(radius - np.hypot(x - centre[0], y - centre[1]) + 0.5, 0, 1)


FIRST, SECOND = disc(CENTRE, RADIUS), disc(OTHER, OTHER_RADIUS)


@pytest.fixture(scope="module")
def still_life():
    """Two touching round things before a backdrop that falls off from the light, with a sensor's noise."""
    rng = np.random.default_rng(2)
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    light = 0.75 - 0.4 * x / WIDTH - 0.1 * y / HEIGHT
    px = np.stack([light, light, light * 0.96])
    for area, colour in ((FIRST, (0.25, 0.4, 0.38)), (SECOND, (0.5, 0.25, 0.2))):
        shade = 0.7 + 0.5 * x / WIDTH
        px += area * (np.array(colour)[:, None, None] * shade - px)
    px += rng.normal(0, 0.006, px.shape)
    return picture_of((np.clip(px, 0, 1) * 65535 + 0.5).astype(np.uint16), b"still life")


def overlap(found, area):
    """Intersection over union."""
    a, b = found / 255.0, area
    return np.minimum(a, b).sum() / np.maximum(a, b).sum()


def full(picture, area):
    return regions.at_full_size(picture, area, regions.coarse_level(picture.width, picture.height))


def line(belongs, *points):
    return Scribble(tuple(points), 12.0, belongs)


def test_a_scribble_grows_to_the_edges_of_the_thing_it_is_on(still_life):
    found = full(still_life, regions.grown(still_life, [line(True, (330, 300), (480, 480))], 0.25))
    assert overlap(found, FIRST) > 0.985
    assert np.abs(found / 255.0 - FIRST)[np.abs(FIRST - 0.5) == 0.5].mean() < 0.002


def test_a_scribble_on_the_backdrop_takes_its_falling_light_and_leaves_the_things(still_life):
    found = full(still_life, regions.grown(still_life, [line(True, (60, 60), (70, 90))], 0.25))
    assert overlap(found, 1 - np.maximum(FIRST, SECOND)) > 0.99


def test_scribbles_on_both_sides_part_what_would_be_one(still_life):
    both = line(True, (420, 390), (700, 420))
    joined = full(still_life, regions.grown(still_life, [both], 0.25))
    parted = full(
        still_life,
        regions.grown(still_life, [line(True, (400, 300), (420, 480)), line(False, (700, 350), (700, 480))], 0.9),
    )
    assert overlap(joined, np.maximum(FIRST, SECOND)) > 0.97
    assert parted[390, 420] == 255 and parted[420, 720] == 0


def test_the_backdrop_is_found_by_one_press_and_goes_on_by_scribbles(still_life):
    start = regions.backdrop(still_life)
    assert overlap(full(still_life, start), 1 - np.maximum(FIRST, SECOND)) > 0.99
    more = full(still_life, regions.grown(still_life, [line(True, (700, 350), (700, 480))], 0.25, start))
    assert overlap(more, 1 - FIRST) > 0.98


def test_taking_away_from_the_backdrop_lets_nothing_else_in(still_life):
    """Also of things so rough that no part of them is even."""
    codes = still_life.colour.full.copy()
    rough = np.random.default_rng(4).integers(-9000, 9000, codes.shape)
    rough_one = picture_of(np.where(FIRST > 0.5, np.clip(codes + rough, 0, 65535), codes).astype(np.uint16), b"rough")
    start = regions.backdrop(rough_one)
    found = full(rough_one, regions.grown(rough_one, [line(False, (60, 700), (80, 720))], 0.25, start))
    assert found[390, 420] == 0 and (found[FIRST == 1] > 128).mean() < 0.02 and found[710, 70] < 128


def test_without_a_scribble_on_what_belongs_nothing_is_found(still_life):
    assert regions.grown(still_life, [line(False, (400, 400))], 0.25).max() == 0
    assert regions.grown(still_life, [line(True, (-900, -900))], 0.25).max() == 0


@pytest.mark.parametrize("off", [-14, 10])
def test_a_border_snaps_to_the_edge_within_its_width_and_no_further(still_life, off):
    rough = np.uint8(disc(CENTRE, RADIUS + off) * 255)
    rough[700:740, 900:940] = 77
    found = regions.snapped(still_life, rough, 24)
    assert (
        overlap(found, FIRST + rough * (np.arange(HEIGHT)[:, None] > 690) / 255.0) > 0.98 > overlap(rough, FIRST) - 0.1
    )
    assert overlap(found, FIRST) > overlap(rough, FIRST) + 0.05
    assert (found[700:740, 900:940] == 77).all()


def test_towards_full_size_only_blocks_with_an_edge_are_worked_on(still_life, monkeypatch):
    seen = []
    plain = regions._colours
    monkeypatch.setattr(
        regions, "_colours", lambda picture, rect, level: seen.append(rect) or plain(picture, rect, level)
    )
    area = np.zeros((400, 550), np.uint8)
    area[90:160, 90:160] = 1
    regions.at_full_size(still_life, area, 1)
    assert 0 < len(seen) <= 2 * 4


def test_the_backdrop_ends_at_a_hard_edge():
    y, x = np.mgrid[0:180, 0:200]
    body = np.hypot((x - 100) / 50, (y - 100) / 60) < 1
    codes = np.where(body, 60, 180).astype(np.uint16) * np.uint16(257)
    picture = picture_of(np.stack([codes] * 3), b"hard")
    found = regions.at_full_size(picture, regions.backdrop(picture), 0)
    wrong = np.abs(found / 255.0 - ~body) > 0.5
    assert wrong.sum() < 0.1 * 2 * np.pi * 55, "less than a tenth of a pixel all along the edge"


def test_a_plain_picture_has_a_backdrop_and_no_edges():
    flat = picture_of(np.full((3, 300, 400), 30000, np.uint16))
    assert regions.backdrop(flat).min() == 1
    assert full(flat, regions.backdrop(flat)).min() == 255
