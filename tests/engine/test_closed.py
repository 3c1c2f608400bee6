"""Where a layer's mask is known to be closed, the key below is passed on, and a change remakes what it touches."""

import numpy as np
import pytest

from glyptic.base.rectangles import Rect
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.reader import Reader
from glyptic.pixels.pyramid import Picture, Pyramid
from tests.conftest import colourful, picture_of, stack_of

WIDTH, HEIGHT = 2000, 1500
STROKE = {"to": 1, "size": 90, "hardness": 0.3, "opacity": 0.8, "flow": 0.6, "points": [[300, 300], [420, 380]]}
PAINT = {"kind": "paint", "strokes": [STROKE]}
OVAL = {"kind": "oval", "centre": [700, 500], "radii": [300, 120], "rotation": 31, "softness": 0.4}
RAMP = {"kind": "ramp", "from": [400, 300], "to": [900, 500]}
OUTLINE = {"kind": "outline", "points": [[100, 100], [700, 160], [300, 650]]}
REGION = {"kind": "region", "source": "region"}
CLOSED = {"start": "closed"}
MASKS = {
    "paint": {**CLOSED, "parts": [PAINT]},
    "paint hidden": {"start": "open", "invert": True, "parts": [{**PAINT, "strokes": [{**STROKE, "to": 0}]}]},
    "oval": {**CLOSED, "parts": [OVAL]},
    "outside": {"start": "open", "parts": [{**OVAL, "inside": False, "op": "hide"}]},
    "oval hides": {"start": "open", "parts": [{**OVAL, "op": "hide", "invert": True}]},
    "ramp": {**CLOSED, "parts": [RAMP, {**OUTLINE, "op": "hide"}]},
    "outline kept": {"start": "open", "parts": [{**OUTLINE, "op": "keep"}, {**PAINT}]},
    "region": {**CLOSED, "parts": [REGION]},
    "feathered": {**CLOSED, "feather": 11, "parts": [{**OUTLINE, "feather": 4}]},
    "grown": {**CLOSED, "grow": 17, "parts": [OVAL]},
    "thin": {**CLOSED, "density": 0.5, "parts": [OVAL]},
    "moved": {**CLOSED, "levels": {"black": 0.1, "gamma": 2}, "parts": [OVAL]},
    "replaced": {"start": "open", "parts": [{"kind": "everything"}, {**OVAL, "op": "replace"}]},
}


def region():
    codes = np.zeros((1, HEIGHT, WIDTH), np.uint16)
    codes[0, 300:600, 300:500] = 65535
    return Picture(Pyramid(codes), b"region")


@pytest.fixture(scope="module")
def pictures():
    return {"picture.png": picture_of(colourful(WIDTH, HEIGHT), b"wide"), "region": region()}


def plan_of(pictures, *layers):
    return make_plan(stack_of(*layers), lambda source: pictures.get(source, pictures["picture.png"]))


@pytest.mark.parametrize("name", MASKS)
@pytest.mark.parametrize("level", [0, 2])
def test_what_is_known_of_a_mask_is_so(pictures, name, level):
    plan = plan_of(pictures, {"id": "e", "kind": "exposure", "settings": {"stops": 1}, "mask": MASKS[name]})
    mask, reader = plan.masks["e"], plan.reader(TileCache(), level)
    found = 0
    for x, y in [*reader.bounds.tiles(64)]:
        rect = Rect(x * 64, y * 64, 64, 64).meet(reader.bounds)
        known = mask.known(reader, rect)
        if known is not None:
            found += 1
            assert np.all(np.asarray(mask.plane(Reader(TileCache(), plan.inner, level), rect)) == np.float32(known))
    assert found


def keys_and_pixels(plan, cache):
    reader = plan.reader(cache, 0)
    places = list(reader.bounds.tiles())
    return [reader.key(plan.finished, x, y) for x, y in places], lambda: [
        reader.tile(plan.finished, x, y) for x, y in places
    ]


@pytest.mark.parametrize("group", [False, True], ids=["layer", "group"])
@pytest.mark.parametrize("name", [name for name in MASKS if name not in ("thin", "outside")])
def test_a_setting_of_a_masked_layer_changes_the_keys_where_it_shows_and_no_others(pictures, name, group):
    def stack(stops):
        inner = {"id": "e", "kind": "exposure", "settings": {"stops": stops}}
        masked = {"id": "m", "mask": MASKS[name]}
        layer = {**masked, "kind": "group", "layers": [inner]} if group else {**inner, **masked}
        return plan_of(pictures, layer, {"kind": "curves", "settings": {"points": {"rgb": [[0, 0.1], [1, 1]]}}})

    before, drawn_before = keys_and_pixels(stack(1), TileCache())
    after, drawn_after = keys_and_pixels(stack(2), TileCache())
    same = [one == other for one, other in zip(before, after, strict=True)]
    looks = [np.array_equal(a, b) for a, b in zip(drawn_before(), drawn_after(), strict=True)]
    assert all(alike for alike, kept in zip(looks, same, strict=True) if kept)
    assert sum(same) >= 0.6 * sum(looks) > 0


def test_an_edit_of_a_small_mask_makes_few_tiles_anew(pictures):
    def layer(stops):
        return {"id": "e", "kind": "exposure", "settings": {"stops": stops}, "mask": MASKS["paint"]}

    over = {"kind": "blur", "settings": {"sigma": 3}}
    cache, made = TileCache(), []
    for stops in (1, 2):
        plan = plan_of(pictures, layer(stops), over)
        reader = plan.reader(cache, 0)
        for x, y in reader.bounds.tiles():
            reader.read(plan.finished, reader.tile_rect(x, y))
        made.append(reader.counts["tiles"])
    assert made[1] < made[0] / 4
