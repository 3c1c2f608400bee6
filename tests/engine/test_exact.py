"""Exact at rest: a level is the export reduced; after an edit only what it touches is made anew."""

import numpy as np
import pytest

from glyptic.actions.made_at_rest import from_cache
from glyptic.base.rectangles import Rect
from glyptic.engine.cache import TileCache
from glyptic.engine.exact import Exact
from glyptic.engine.plan import make_plan
from glyptic.engine.render import Rendering, render
from tests.conftest import colourful, overlaps, picture_of, stack_of

WIDTH, HEIGHT = 1100, 800
STROKE = {"to": 1, "size": 60, "hardness": 0, "opacity": 0.9, "flow": 0.9, "points": [[100, 100], [180, 140]]}
SHARP = {"kind": "sharpen", "settings": {"amount": 1.5, "radius": 1}}
CURVE = {"kind": "curves", "settings": {"points": {"rgb": [[0, 0.2], [0.4, 0.9], [1, 0.1]]}}}


@pytest.fixture(scope="module")
def large():
    return picture_of(colourful(WIDTH, HEIGHT), b"large")


def plan_of(picture, *layers):
    return make_plan(stack_of(*layers), lambda source: picture)


def reduced(codes, level):
    """The mean (h, w, 3) of the pixels there are in each block, 0..1."""
    k = 1 << level
    rows = [codes[y : y + k].astype(np.float64) for y in range(0, codes.shape[0], k)]
    return np.array([[row[:, x : x + k].mean((0, 1)) for x in range(0, codes.shape[1], k)] for row in rows]) / 65535


@pytest.mark.parametrize("step", [1.37, 7.143])
def test_an_exact_level_of_any_scale_is_the_full_size_result_averaged(large, step):
    plan = plan_of(large, CURVE, SHARP)
    reader = plan.reader(TileCache(), float(np.log2(step)))
    down, across = overlaps(reader.bounds.h, step, HEIGHT), overlaps(reader.bounds.w, step, WIDTH)
    codes = render(plan, TileCache(), depth=16).colour / 65535
    wanted = np.einsum(
        "iy,jx,yxc->cij", down / down.sum(1)[:, None], across / across.sum(1)[:, None], codes, optimize=True
    )
    shown = reader.read(Exact(plan.finished, TileCache(), TileCache()), reader.bounds)
    assert np.abs(shown - wanted).max() < 1e-6
    part = Rect(5, 9, 40, 30)
    assert np.array_equal(
        reader.read(Exact(plan.finished, TileCache(), TileCache()), part),
        shown[:, part.y : part.bottom, part.x : part.right],
    )


@pytest.mark.parametrize("level", [1, 2, 3, 9])
def test_an_exact_level_is_the_full_size_result_reduced(large, level):
    plan = plan_of(large, CURVE, SHARP)
    wanted = reduced(render(plan, TileCache(), depth=16).colour, level)
    written = Rendering(plan, TileCache(), level, depth=16, exact=True).whole().colour / 65535
    assert np.abs(written - wanted).max() <= 0.51 / 65535
    reader = plan.reader(TileCache(), level)
    shown = reader.read(Exact(plan.finished, TileCache(), TileCache()), reader.bounds)
    assert np.abs(np.moveaxis(shown, 0, 2) - wanted).max() < 1e-6
    assert np.abs(render(plan, TileCache(), level, depth=16).colour / 65535 - wanted).max() > 1e-3 or level == 9


def test_a_part_of_it_is_as_in_the_whole(large):
    plan = plan_of(large, CURVE, SHARP)
    whole = Rendering(plan, TileCache(), 2, depth=16, exact=True).whole().colour
    part = Rendering(plan, TileCache(), 2, Rect(410, 301, 300, 333), 16, exact=True)
    at = part.rect
    assert np.array_equal(part.whole().colour, whole[at.y : at.bottom, at.x : at.right])


def test_an_edit_of_a_small_mask_makes_few_pieces_anew(large):
    codes, scratch, tiles, made = TileCache(), TileCache(), TileCache(), []
    for stops in (1, 2):
        mask = {"start": "closed", "parts": [{"kind": "paint", "strokes": [STROKE]}]}
        plan = plan_of(large, {"kind": "exposure", "settings": {"stops": stops}, "mask": mask}, SHARP)
        reader, node = plan.reader(tiles, 2), Exact(plan.finished, codes, scratch)
        places = list(reader.bounds.tiles())
        pieces = node.missing(reader, places)
        made.append(len(pieces))
        for work in pieces:
            work()
        assert not node.missing(reader, places)
    assert made == [20, 4]


def test_what_was_made_at_rest_is_only_encoded_by_an_export(large):
    plan, codes = plan_of(large, CURVE, SHARP), TileCache()
    reader = plan.reader(TileCache(), np.log2(3.3))
    reader.read(Exact(plan.finished, codes, TileCache()), reader.bounds)
    again, cache = plan_of(large, CURVE, SHARP), TileCache()
    written = Rendering(again, cache, depth=16, kept=from_cache(codes)).whole().colour
    assert cache.counts["misses"] == 0
    assert np.array_equal(written, render(plan, TileCache(), depth=16).colour)
    eight = Rendering(again, cache, depth=8, kept=from_cache(codes)).whole().colour
    assert cache.counts["misses"] == 0
    assert np.array_equal(eight, render(plan, TileCache(), depth=8).colour)
