"""Rectangles, tiles and digests: the arithmetic everything else leans on."""

from hypothesis import example, given
from hypothesis import strategies as st

from glyptic.base.digests import canonical_json, digest
from glyptic.base.rectangles import TILE, Rect, level_size, tile_rect

sides = st.integers(0, 3000)
places = st.integers(-3000, 3000)
rects = st.builds(Rect, places, places, sides, sides)


@given(rects, rects)
def test_meet_lies_in_both_and_join_holds_both(a, b):
    common, both = a.meet(b), a.join(b)
    if not common.empty:
        assert a.join(common) == a and b.join(common) == b
    for part in (a, b):
        assert part.empty or both.meet(part) == part


@given(rects)
def test_tiles_cover_a_rectangle_and_each_touches_it(rect):
    tiles = list(rect.tiles())
    assert len(tiles) == len(set(tiles))
    assert all(not tile_rect(*tile).meet(rect).empty for tile in tiles)
    assert sum(part.w * part.h for part in (tile_rect(*tile).meet(rect) for tile in tiles)) == rect.w * rect.h


@given(
    st.builds(Rect, st.integers(0, 3000), st.integers(0, 3000), st.integers(1, 3000), st.integers(1, 3000)),
    st.integers(0, 8),
)
def test_a_level_grows_a_rectangle_outward_to_whole_pixels(rect, level):
    at, step = rect.at_level(level), 1 << level
    assert at.x * step <= rect.x < (at.x + 1) * step and (at.right - 1) * step < rect.right <= at.right * step


@given(st.integers(1, 10**5), st.integers(1, 10**5), st.integers(0, 20))
@example(1, 1, 20)
def test_levels_are_rounded_up(width, height, level):
    w, h = level_size(width, height, level)
    assert (w - 1) << level < width <= w << level and (h - 1) << level < height <= h << level


def test_digests_frame_their_parts():
    assert digest("ab", "c") != digest("a", "bc") and digest(1) != digest("1") and digest(1) != digest(1.0)
    assert canonical_json({"b": 1, "a": [1, 2]}) == canonical_json({"a": [1, 2], "b": 1})
    assert TILE == 256
