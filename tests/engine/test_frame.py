"""The frame: bits copied where pixels fall on pixels, nothing of the picture made again or moved by a new frame."""

import numpy as np
import pytest

from glyptic.base.homography import Homography
from glyptic.base.rectangles import Rect
from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan, until
from glyptic.engine.render import Rendering, cache_for, region_at, render
from glyptic.engine.vocabulary import VOCABULARY
from tests.conftest import BASE, colourful, picture_of
from tests.engine.test_engine import WORK

WIDTH, HEIGHT = 700, 560
X, Y, W, H = 37, 21, 601, 420
CROP = [[X, Y], [X + W, Y], [X + W, Y + H], [X, Y + H]]
TURNED = [[60, 130], [600, 20], [660, 430], [90, 540]]
OVER = [{"id": "v", "kind": "blur", "settings": {"sigma": 6}}, {"kind": "exposure", "settings": {"stops": -0.5}, "mask": {"parts": [{"kind": "tone", "low": 0.5, "of": "base"}]}}]  # fmt: skip


@pytest.fixture(scope="module")
def picture():
    return picture_of(colourful(WIDTH, HEIGHT), b"framed")


def plan_of(picture, frame, layers=WORK):
    plain = {"format": "glyptic-stack", "version": 1, "layers": [BASE, *layers], "frame": frame}
    return make_plan(parse_stack(plain, VOCABULARY), lambda source: picture)


def drawn(picture, frame, layers=WORK, cache=None, level=0, region=None):
    return render(plan_of(picture, frame, layers), cache or TileCache(), level, region, 16).colour


PART = np.s_[Y : Y + H, X : X + W]


@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("quarters", range(4))
def test_whole_crops_turns_and_mirrors_copy_bits(picture, quarters, mirrored):
    corners = CROP[quarters:] + CROP[:quarters]
    size = [W, H] if quarters % 2 == 0 else [H, W]
    corners = [corners[k] for k in (1, 0, 3, 2)] if mirrored else corners
    expected = np.rot90(drawn(picture, None)[PART], quarters)
    expected = expected[:, ::-1] if mirrored else expected
    border = {"left": 3, "top": 5, "right": 7, "bottom": 300, "colour": [1, 0.25, 0]}
    sheet = drawn(picture, {"corners": corners, "size": size, "border": border})
    assert np.array_equal(sheet[5:-300, 3:-7], expected)
    around = np.ones(sheet.shape[:2], bool)
    around[5:-300, 3:-7] = False
    assert np.array_equal(np.unique(sheet[around], axis=0), [[65535, 16384, 0]])


def test_beyond_the_picture_lies_the_colour_that_was_asked_for(picture):
    sheet = drawn(picture, {"corners": [[-50, -40], [100, -40], [100, 60], [-50, 60]], "size": [150, 100], "outside": [0, 1, 0]})  # fmt: skip
    assert np.array_equal(np.unique(sheet[:40].reshape(-1, 3), axis=0), [[0, 65535, 0]])
    assert np.array_equal(sheet[40:, 50:], drawn(picture, None)[:60, :100])


def test_a_new_frame_makes_nothing_of_the_picture_again_and_moves_nothing_in_it(picture):
    cache = TileCache()
    whole = drawn(picture, {"corners": [[0, 0], [WIDTH, 0], [WIDTH, HEIGHT], [0, HEIGHT]], "size": [WIDTH, HEIGHT]}, cache=cache)  # fmt: skip
    made = cache.counts["misses"]
    assert np.array_equal(drawn(picture, {"corners": CROP, "size": [W, H]}, cache=cache), whole[PART])
    drawn(picture, {"corners": TURNED, "size": [520, 400]}, cache=cache)
    assert cache.counts["misses"] == made


@pytest.mark.parametrize("corners", [TURNED, TURNED[2:] + TURNED[:2]])
def test_parts_and_a_small_cache_change_no_bit(picture, corners):
    frame = {"corners": corners, "size": [560, 420], "border": {"left": 20, "bottom": 40}, "layers": OVER}
    for level in (0, 1, 3):
        whole = drawn(picture, frame, level=level)
        plan = plan_of(picture, frame)
        for region in (Rect(230, 200, 300, 90), Rect(0, 400, 900, 900)):
            at = region_at(plan, region, level)
            part = whole[at.y : at.bottom, at.x : at.right]
            assert np.array_equal(drawn(picture, frame, level=level, region=region), part)
        passing = Rendering(plan, cache_for(plan, level=level), level, depth=16).whole().colour
        assert np.array_equal(passing, whole)


def test_zoomed_out_the_sheet_is_what_full_size_reduces_to():
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH]
    smooth = np.stack([np.sin(x / 40 + k) * np.cos(y / 55) * 0.4 + 0.5 for k in range(3)])
    picture = picture_of((smooth * 65535).astype(np.uint16), b"smooth")
    for size in ([544, 416], [272, 208], [1088, 832]):
        frame = {"corners": TURNED, "size": size, "border": {"left": 32, "right": 32, "top": 64}}
        full = drawn(picture, frame, layers=()).astype(float)
        for level in (1, 2, 3):
            n = 1 << level
            reduced = full.reshape(full.shape[0] // n, n, full.shape[1] // n, n, 3).mean((1, 3))
            off = np.abs(drawn(picture, frame, layers=(), level=level) - reduced) / 65535
            assert off.max() < 0.012
            assert off.mean() < 1.5e-3


def test_up_to_a_layer_of_the_picture_there_is_nothing_over_the_sheet(picture):
    plain = {"format": "glyptic-stack", "version": 1, "layers": [BASE, *WORK], "frame": {"corners": CROP, "size": [W, H], "layers": OVER}}  # fmt: skip
    stack = parse_stack(plain, VOCABULARY)
    assert until(stack, "a").sheet_layers == ()
    assert len(until(stack, "a").layers) == 2
    assert [layer.id for layer in until(stack, "v").walk()] == [*(x.id for x in stack.walk())][:-1]


def test_corners_go_where_they_are_sent_and_back():
    carried = Homography.onto(tuple(map(tuple, TURNED)), 520, 400)
    for place, corner in zip([(0, 0), (520, 0), (520, 400), (0, 400)], TURNED, strict=True):
        assert carried.at(*place) == pytest.approx(corner)
        assert carried.inverse.at(*corner) == pytest.approx(place, abs=1e-9)
