"""Exact at rest: a few pieces at a time, and then the tiles of a view are the export reduced."""

from dataclasses import replace

import numpy as np
import pytest

from glyptic.actions.exact import advance, clipped
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import open_picture
from glyptic.actions.tiles import tile_keys, tile_pixels
from glyptic.base.errors import DocumentError
from glyptic.base.rectangles import Rect
from glyptic.engine.cache import TileCache
from glyptic.engine.render import Rendering
from tests.conftest import colourful, png_bytes

EIGHT = np.moveaxis(colourful(1100, 800) >> 8, 0, 2).astype(np.uint8)


@pytest.fixture
def stack(shop):
    return shop.current(open_picture(shop, png_bytes(EIGHT), "a.png")).stack


def test_it_gives_way_after_a_moment_and_ends_as_the_export_reduced(shop, stack):
    looking = Looking("finished", "base", 1, Rect(0, 0, 550, 400), exact=True)
    ticks = iter(range(1000))
    lefts = []
    while not lefts or lefts[-1]:
        left, whole = advance(shop, stack, looking, lambda: 0.04 * next(ticks))
        lefts.append(left)
    assert len(lefts) > 3 and lefts == sorted(lefts, reverse=True) and lefts[0] < whole
    wanted = Rendering(shop.plan(stack), TileCache(), 1, exact=True).whole().colour
    full = Rendering(shop.plan(stack), TileCache(), depth=16).whole().colour
    dark, light = clipped(shop, stack, looking)
    assert (dark, light) == ((full <= 6).any(2).mean(), (full >= 65529).any(2).mean()) and min(dark, light) > 0
    assert clipped(shop, stack, replace(looking, rect=Rect(0, 0, 300, 400))) is None
    for tx, ty, key in tile_keys(shop, stack, looking):
        h, w = (min(256, side - 256 * at) for side, at in ((400, ty), (550, tx)))
        shown = np.frombuffer(tile_pixels(shop, key), np.uint8).reshape(h, w, 4)
        assert np.array_equal(shown[:, :, :3], wanted[256 * ty : 256 * ty + h, 256 * tx : 256 * tx + w])


def test_what_is_drawn_for_the_screen_is_never_exact(shop, stack):
    with pytest.raises(DocumentError, match="not for the view"):
        advance(shop, stack, Looking("mask-over", "base", 1, Rect(0, 0, 550, 400), exact=True))
