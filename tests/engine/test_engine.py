"""The engine: tiles equal the whole, work is done once, the plan leaves out what does nothing."""

from dataclasses import replace

import numpy as np
import pytest

from glyptic.base.errors import DocumentError
from glyptic.base.rectangles import TILE, Rect
from glyptic.document.codec import parse_stack
from glyptic.document.edits.strokes import with_stroke
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan, until
from glyptic.engine.reader import Reader
from glyptic.engine.render import Rendering, cache_for, region_at, render
from glyptic.engine.views import VIEWS, Dress
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import SRGB, tone
from tests.conftest import colourful, finished, picture_of, stack_of
from tests.tolerances import EXACT

WIDTH, HEIGHT = 1100, 800
STROKE = {"to": 1, "size": 60, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[100, 100], [180, 140]]}
FAR = {**STROKE, "points": [[900, 700], [980, 720]]}


@pytest.fixture(scope="module")
def large():
    return picture_of(colourful(WIDTH, HEIGHT), b"large")


def grey(*strokes, **more):
    return {"id": "g", "kind": "grey", "strokes": list(strokes), **more}


def reader_for(picture, cache, level=0):
    return Reader(cache, picture.canvas, level)


WORK = [
    {"id": "a", "kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.4, 0.6], [1, 1]]}}},
    {"id": "b", "kind": "blur", "settings": {"sigma": 21}, "mask": {"start": "closed", "feather": 9, "parts": [
        {"kind": "tone", "low": 0.4, "soft_low": 0.2, "feather": 5}, {"kind": "paint", "strokes": [FAR]}]}},
    {"id": "c", "kind": "group", "opacity": 0.7, "mask": {"parts": [{"kind": "colour", "colour": [1, 0.5, 0], "op": "hide", "feather": 3}]},
     "layers": [{"id": "d", "kind": "blur", "settings": {"sigma": 4}}, grey(STROKE, {**STROKE, "to": 0})]},
    {"id": "e", "kind": "grey", "strokes": [STROKE, {"even": 15, "size": 200, "hardness": 0, "opacity": 1, "flow": 1, "points": [[140, 120]]}]},
]  # fmt: skip


@pytest.mark.parametrize("level", [0, 1, 2, 4])
def test_tiles_equal_the_whole_across_neighbourhood_steps(large, level):
    whole = render(make_plan(stack_of(*WORK), lambda s: large), TileCache(), level, depth=16).colour
    for region in (Rect(230, 200, 400, 300), Rect(1000, 700, 500, 500)):
        plan = make_plan(stack_of(*WORK), lambda s: large)
        part = render(plan, TileCache(), level, region, 16).colour
        at = region_at(plan, region, level)
        assert np.array_equal(part, whole[at.y : at.bottom, at.x : at.right])


def test_a_small_cache_changes_no_bit(large):
    whole = render(make_plan(stack_of(*WORK), lambda s: large), TileCache(), depth=16).colour
    cramped = TileCache(budget=8 * TILE * TILE * 4 * 3)
    assert np.array_equal(render(make_plan(stack_of(*WORK), lambda s: large), cramped, depth=16).colour, whole)
    assert cramped.counts["dropped"] > 0


@pytest.mark.parametrize("sigma", [3, 20, 60])
def test_going_through_from_top_to_bottom_makes_each_tile_about_once(monkeypatch, sigma):
    tall = picture_of(np.tile(colourful(500, 500), (1, 10, 1)), b"tall")
    layers = [{"kind": "exposure", "settings": {"stops": 1}}, {"kind": "blur", "settings": {"sigma": sigma}}, {"kind": "blur", "settings": {"sigma": 2}}]  # fmt: skip
    monkeypatch.setattr("glyptic.engine.render.FEWEST", 2 * TILE * TILE * 12)
    made, held = [], []
    for small in (False, True):
        plan = make_plan(stack_of(*layers), lambda s: tall)
        cache = cache_for(plan) if small else TileCache()
        held.append(max(cache.bytes for _ in Rendering(plan, cache).bands()))
        made.append(cache.counts["misses"])
        assert (cache.counts["let go"] > 0) is small
    assert made[1] <= 1.2 * made[0]
    assert held[1] <= 0.4 * held[0]


def test_while_a_stroke_is_drawn_the_layers_below_keep_their_nodes(large):
    below = {
        "id": "a",
        "kind": "exposure",
        "settings": {"stops": 1},
        "mask": {"parts": [{"kind": "paint", "strokes": [FAR]}]},
    }
    stack = stack_of(below, grey(), {"id": "b", "kind": "levels", "settings": {"rgb": {"black": 0.1}}})
    before = make_plan(stack, lambda s: large)
    drawn = with_stroke(stack, stack.find("g"), "grey", stack_of(grey(STROKE)).find("g").strokes[0])
    plan = make_plan(drawn, lambda s: large, still=before, drawn="g")
    assert plan.above["a"] is before.above["a"] and plan.masks["a"] is before.masks["a"]
    assert plan.above["g"] is not before.above["g"] and plan.finished is not before.finished


def test_while_a_stroke_is_drawn_masks_that_look_at_nothing_below_are_shared(large):
    window = {"low": 0.2, "high": 0.7, "soft_low": 0.2}
    masks = {
        "ramp": [{"kind": "ramp", "from": [0, 0], "to": [WIDTH, HEIGHT]}],
        "painted": [{"kind": "paint", "strokes": [FAR]}],
        "of base": [{"kind": "tone", "of": "base", **window}],
        "of below": [{"kind": "tone", "of": "below", **window}],
    }
    above = [
        {"id": name, "kind": "exposure", "settings": {"stops": 0.3}, "mask": {"start": "closed", "parts": parts}}
        for name, parts in masks.items()
    ]
    stack = stack_of(grey(STROKE), *above)
    before = make_plan(stack, lambda s: large)
    drawn = with_stroke(stack, stack.find("g"), "grey", stack_of(grey(FAR)).find("g").strokes[0])
    plan = make_plan(drawn, lambda s: large, still=before, drawn="g")
    shared = {name for name in masks if plan.masks[name] is before.masks[name]}
    assert shared == {"ramp", "painted", "of base"}
    fresh = make_plan(drawn, lambda s: large)
    reader = reader_for(large, TileCache())
    assert np.array_equal(reader.read(plan.finished, reader.bounds), reader.read(fresh.finished, reader.bounds))


def test_a_part_of_a_picture_makes_no_tile_that_it_does_not_look_at():
    """As many as are made where each is asked for when it is needed."""
    wide = picture_of(colourful(2600, 2200), b"wide")
    stack = stack_of(
        {"id": "a", "kind": "exposure", "settings": {"stops": 0.3}},
        {"id": "b", "kind": "blur", "settings": {"sigma": 20}},
        {"id": "c", "kind": "local-contrast", "settings": {"amount": 0.5, "radius": 60}},
    )
    region = Rect(1024, 1024, 512, 256)
    part, one_by_one = TileCache(2**30), TileCache(2**30)
    rendered = render(make_plan(stack, lambda s: wide), part, region=region)
    plan = make_plan(stack, lambda s: wide)
    asked = reader_for(wide, one_by_one)
    px = np.concatenate([asked.read(plan.finished, asked.tile_rect(x, y)) for x, y in region.tiles()], axis=2)
    assert np.array_equal(rendered.colour, to_codes(px, 8))
    assert part.counts["misses"] <= one_by_one.counts["misses"] + len(list(region.tiles()))


def test_an_empty_region_is_refused(large):
    with pytest.raises(DocumentError, match="region"):
        region_at(make_plan(stack_of(), lambda s: large), Rect(WIDTH, 0, 5, 5), 0)


def keys_of(picture, *layers):
    plan = make_plan(stack_of(*layers), lambda s: picture)
    reader = reader_for(picture, TileCache())
    return {place: reader.key(plan.finished, *place) for place in reader.bounds.tiles()}


def test_a_stroke_changes_the_keys_of_the_tiles_it_touches_only(large):
    before, after = keys_of(large, grey(STROKE)), keys_of(large, grey(STROKE, FAR))
    assert {place for place in before if before[place] != after[place]} == {(3, 2)}


def test_a_stroke_under_a_blur_changes_the_tiles_within_its_reach(large):
    blur = {"kind": "blur", "settings": {"sigma": 10}}
    before, after = keys_of(large, grey(STROKE), blur), keys_of(large, grey(STROKE, FAR), blur)
    changed = {place for place in before if before[place] != after[place]}
    assert changed == {(x, y) for x in (2, 3, 4) for y in (1, 2, 3)}


def test_one_stroke_more_draws_one_stroke_and_undo_draws_none(large):
    cache = TileCache()

    def work(*strokes):
        reader = reader_for(large, cache)
        reader.read(make_plan(stack_of(grey(*strokes)), lambda s: large).finished, reader.bounds)
        return reader.counts

    many = [{**STROKE, "points": [[90 + i, 100], [150, 140 + i]]} for i in range(30)]
    assert work(*many)["strokes"] == 30
    assert work(*many, STROKE)["strokes"] == 1
    assert work(*many)["strokes"] == 0


def test_keys_tell_everything_that_goes_in(large):
    layer = {"kind": "exposure", "settings": {"stops": 1}}
    variants = [
        [], [layer], [{**layer, "opacity": 0.5}], [{**layer, "blend": "screen"}], [{**layer, "settings": {"stops": 1.1}}],
        [{**layer, "mask": {"start": "closed", "parts": [{"kind": "ramp", "from": [0, 0], "to": [9, 9]}]}}], [layer, layer],
    ]  # fmt: skip
    keys = [keys_of(large, *layers)[0, 0] for layers in variants]
    assert len(set(keys)) == len(keys)
    other = picture_of(colourful(WIDTH, HEIGHT - 1), b"large")
    assert keys_of(other)[0, 2] != keys_of(large)[0, 2]


def test_names_and_locks_are_not_in_the_keys(large):
    layer = {"id": "x", "kind": "exposure", "settings": {"stops": 1}}
    assert keys_of(large, layer) == keys_of(large, {**layer, "name": "Other", "locked": True, "id": "y"})


@pytest.mark.parametrize(
    "layer",
    [
        {"kind": "exposure"}, {"kind": "curves", "visible": False, "settings": {"points": {"rgb": [[0, 1], [1, 0]]}}},
        {"kind": "fill", "opacity": 0, "settings": {"colour": [0, 0, 0]}}, {"kind": "grey"}, {"kind": "group", "layers": []},
        {"kind": "group", "layers": [{"kind": "levels"}], "opacity": 0.5}, {"kind": "blur", "settings": {"sigma": 0}},
    ],
)  # fmt: skip
def test_layers_that_do_nothing_leave_no_trace(large, layer):
    plan = make_plan(stack_of(layer), lambda s: large)
    assert plan.finished is plan.base


def test_a_group_without_mask_is_its_layers(picture):
    inner = {"kind": "exposure", "settings": {"stops": 1}}
    assert np.array_equal(finished(picture, {"kind": "group", "layers": [inner]}), finished(picture, inner))


def test_until_stops_after_a_layer_also_inside_a_group(picture):
    up = {"kind": "exposure", "settings": {"stops": 1}}
    stack = stack_of(
        {**up, "id": "1"},
        {"id": "g", "kind": "group", "opacity": 0.5, "layers": [{**up, "id": "2"}, {**up, "id": "3"}]},
        {**up, "id": "4"},
    )
    expected = {
        "base": [], "1": [up], "2": [up, {"kind": "group", "opacity": 0.5, "layers": [up]}],
        "g": [up, {"kind": "group", "opacity": 0.5, "layers": [up, up]}],
    }  # fmt: skip
    for layer_id, layers in expected.items():
        plan = make_plan(until(stack, layer_id), lambda s: picture)
        got = reader_for(picture, TileCache()).read(plan.finished, Rect(0, 0, 300, 280))
        assert np.array_equal(got, finished(picture, *layers)), layer_id
    with pytest.raises(DocumentError, match="gone"):
        until(stack, "gone")


def test_alpha_of_the_base_is_written_back_unchanged():
    from glyptic.pixels.pyramid import Picture, Pyramid

    codes, alpha = colourful(40, 30), np.arange(1200, dtype=np.uint16).reshape(1, 30, 40) * 50
    plan = make_plan(
        stack_of({"kind": "exposure", "settings": {"stops": 1}}),
        lambda s: Picture(Pyramid(codes), b"a", Pyramid(alpha)),
    )
    assert np.array_equal(render(plan, TileCache(), depth=16).alpha, alpha[0])


def test_views_show_what_they_say(picture):
    layers = [
        grey(STROKE, id="g"),
        {"id": "m", "kind": "exposure", "settings": {"stops": 1}, "mask": {"start": "closed"}},
    ]
    plan = make_plan(stack_of(*layers), lambda s: picture)
    reader = reader_for(picture, TileCache())
    seen = {
        name: reader.read(view.node(plan, "g" if view.needs == "painting" else "m", Dress()), reader.bounds)
        for name, view in VIEWS.items()
    }
    assert np.array_equal(seen["before"], finished(picture)) and np.array_equal(
        seen["finished"], finished(picture, layers[0])
    )
    assert seen["mask-alone"].max() == 0 and seen["grey-alone"].max() > 0.6 and seen["grey-alone"].min() == 0.5
    assert np.abs(seen["mask-over"] - seen["finished"]).max() > 0.1
    grey_of_tone = seen["tone"]
    assert (
        np.array_equal(grey_of_tone[0], grey_of_tone[2])
        and np.abs(tone(grey_of_tone, SRGB) - tone(seen["finished"], SRGB)).max() < EXACT
    )
    still = np.array_equal(seen["before"], seen["finished"]), (seen["before"] == seen["finished"]).all(0)
    assert not still[0] and np.array_equal(seen["change"][0][still[1]], seen["change"][2][still[1]])


def test_a_deep_stack_is_walked_not_recursed(picture):
    many = [{"kind": "exposure", "settings": {"stops": 0.01}} for _ in range(300)]
    assert finished(picture, *many, rect=Rect(0, 0, 8, 8)).shape == (3, 8, 8)


def test_nodes_used_again_are_those_of_the_state(large):
    """A link from within a group to the mask of a layer that is off; a mask of the base over a sheet that is cropped anew."""
    colour, window = {"settings": {"colour": [1, 0, 0]}}, {"kind": "tone", "of": "base", "low": 0.3, "high": 0.7}
    oval = {"kind": "oval", "centre": [150, 140], "radii": [40, 40], "softness": 0}
    plain = {
        "format": "glyptic-stack", "version": 1, "frame": {
            "corners": [[0, 0], [200, 0], [200, 200], [0, 200]], "size": [200, 200],
            "layers": [{"id": "o", "kind": "fill", **colour, "mask": {"start": "closed", "parts": [window]}}]},
        "layers": [
            {"id": "base", "kind": "picture", "source": "base.png"},
            {"id": "x", "kind": "fill", **colour, "visible": False, "mask": {"start": "closed", "parts": [oval]}},
            {"id": "g", "kind": "group", "layers": [
                {"id": "i", "kind": "fill", "settings": {"colour": [0, 1, 0]}, "mask": {"linked": "x", "parts": []}}]},
        ],
    }  # fmt: skip
    stack = parse_stack(plain, VOCABULARY)
    wider = parse_stack({**plain, "layers": [plain["layers"][0], {**plain["layers"][1], "mask": {}}]}, VOCABULARY)
    moved = parse_stack(
        {**plain, "frame": {**plain["frame"], "corners": [[90, 0], [290, 0], [290, 200], [90, 200]]}}, VOCABULARY
    )
    opened = stack.replaced(replace(stack.find("x"), mask=wider.find("x").mask))
    cropped = replace(opened, frame=replace(opened.frame, settings=moved.frame.settings))
    before = None
    for state in (stack, opened, cropped, cropped.unframed, stack):
        plan = make_plan(state, lambda s: large, still=before)
        fresh = make_plan(state, lambda s: large)
        again, alone = (one.reader(TileCache(), 0).read(one.finished, one.outer.at(0)) for one in (plan, fresh))
        assert np.array_equal(again, alone)
        before = plan
