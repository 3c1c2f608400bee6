"""Going up the stack once gives every state as reading it by itself does; views of what is clipped."""

import numpy as np

from glyptic.base.rectangles import Rect
from glyptic.engine import render
from glyptic.engine.cache import TileCache
from glyptic.engine.maps import BLOCKED_COLOUR, BLOWN_COLOUR
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.engine.states import Ascent, colour
from glyptic.engine.views import VIEWS, Dress
from tests.conftest import colourful, picture_of, stack_of

OVAL = {"start": "closed", "parts": [{"kind": "oval", "centre": [150, 120], "radii": [110, 90], "softness": 0.5}]}
LAYERS = [
    {"id": "a", "kind": "curves", "settings": {"points": {"rgb": [[0, 0.1], [1, 0.8]]}}},
    {"id": "off", "kind": "exposure", "settings": {"stops": 3}, "visible": False},
    {"id": "b", "kind": "blur", "settings": {"sigma": 12}, "mask": OVAL},
    {"id": "g", "kind": "group", "opacity": 0.7, "mask": OVAL, "layers": [
        {"id": "c", "kind": "exposure", "settings": {"stops": 1}},
        {"id": "d", "kind": "local-contrast", "settings": {"amount": 1, "radius": 20}},
    ]},
    {"id": "i", "kind": "group", "mode": "isolated", "blend": "multiply", "layers": [
        {"id": "e", "kind": "fill", "settings": {"colour": [0.9, 0.6, 0.3]}, "opacity": 0.5, "mask": OVAL},
        {"id": "f", "kind": "levels", "settings": {"rgb": {"gamma": 1.4}}},
    ]},
]  # fmt: skip


def test_every_state_is_the_one_its_node_gives(picture):
    stack = stack_of(*LAYERS)
    plan = make_plan(stack, lambda source: picture)
    reader = Reader(TileCache(), picture.canvas, 0)
    rect = Rect(20, 30, 200, 180)
    seen = []
    for layer, below, above in Ascent(plan, reader, rect).states(stack.layers[1:], plan.base):
        seen.append(layer.id)
        assert np.abs(below - colour(reader, plan.below[layer.id], rect)).max() < 2e-4, layer.id
        assert np.abs(above - colour(reader, plan.above[layer.id], rect)).max() < 2e-4, layer.id
    assert seen == ["a", "off", "b", "c", "d", "g", "e", "f", "i"]


def ramp_with_ends():
    codes = np.full((3, 20, 30), 30000, np.uint16)
    codes[:, :5], codes[:, 5:10], codes[0, 10:15] = 65535, 0, 65535
    return picture_of(codes)


def seen_by(view, layers=()):
    picture = ramp_with_ends()
    plan = make_plan(stack_of(*layers), lambda source: picture)
    reader = Reader(TileCache(), picture.canvas, 0)
    return reader.read(VIEWS[view].node(plan, layers[-1]["id"] if layers else "base", Dress()), reader.bounds)


def test_blown_and_blocked_pixels_are_marked_and_the_rest_is_quiet_grey():
    px = seen_by("clipping")
    assert np.allclose(px[:, 2, 2], BLOWN_COLOUR) and np.allclose(px[:, 7, 2], BLOCKED_COLOUR)
    assert np.ptp(px[:, 17, 2]) < 1e-6
    partly = px[:, 12, 2]
    assert partly[0] > partly[2] and not np.allclose(partly, BLOWN_COLOUR)


def test_the_edge_of_a_mask_is_a_line_white_inside_and_black_outside_and_tiles_are_the_whole(picture):
    outline = {"kind": "outline", "points": [[40, 40], [270, 40], [270, 200], [40, 200]]}
    plan = make_plan(
        stack_of({"id": "l", "kind": "exposure", "mask": {"start": "closed", "parts": [outline]}}), lambda s: picture
    )
    reader = Reader(TileCache(), picture.canvas, 0)
    node = VIEWS["mask-edge"].node(plan, "l", Dress())
    whole = reader.read(node, reader.bounds)
    assert whole[:, 40, 100:200].min() == 1 and whole[:, 39, 100:200].max() == 0
    assert np.array_equal(whole[:, 60:180, 60:240], reader.read(plan.finished, reader.bounds)[:, 60:180, 60:240])
    right = reader.tile_rect(1, 0)
    assert np.array_equal(reader.read(node, right), whole[:, : right.h, right.x :])


def test_only_what_a_layer_leaves_clipped_is_shown():
    px = seen_by("only-clipped", [{"id": "l", "kind": "levels", "settings": {"green": {"white": 0.3}}}])
    assert px[:, 2, 2].tolist() == [1, 1, 1] and px[:, 7, 2].tolist() == [0, 0, 0]
    assert px[:, 17, 2].tolist() == [0.5, 1, 0.5]


def test_a_render_with_paintings_and_two_steps_that_look_around_makes_nothing_twice(monkeypatch):
    """The cache a render is given holds all that is wanted again: as many tiles are made as with room for everything."""
    monkeypatch.setattr(render, "FEWEST", 2**20)
    picture = picture_of(np.repeat(colourful(1500, 1300)[:1], 3, axis=0))
    stroke = {"to": 1, "size": 500, "hardness": 0.2, "opacity": 0.6, "flow": 0.7, "points": [[100, 100], [1400, 1200]]}
    painted = {"start": "closed", "parts": [{"kind": "paint", "strokes": [stroke]}]}
    layers = [
        {"kind": "exposure", "settings": {"stops": 0.4}, "mask": painted},
        {"kind": "grey", "strokes": [stroke]},
        {"kind": "blur", "settings": {"sigma": 16}},
        {"kind": "curves", "settings": {"points": {"tone": [[0, 0], [0.4, 0.5], [1, 1]]}}, "mask": painted},
        {"kind": "local-contrast", "settings": {"amount": 1, "radius": 40}},
    ]
    made = []
    for given in (None, TileCache(2**30)):
        plan = make_plan(stack_of(*layers), lambda source: picture)
        cache = given or render.cache_for(plan)
        for _ in render.Rendering(plan, cache).bands():
            pass
        made.append(cache.counts["misses"])
    assert made[0] <= 1.05 * made[1]
