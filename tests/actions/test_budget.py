"""One budget for everything that is kept, held however long somebody works."""

import numpy as np
import pytest

from glyptic.actions import edit, paint
from glyptic.actions.budget import Budget
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import open_picture
from glyptic.actions.recent import Recent
from glyptic.actions.tiles import tile_keys, tile_pixels
from glyptic.actions.workshop import Workshop
from glyptic.base.rectangles import Canvas, Rect
from glyptic.engine.cache import TileCache, weight
from glyptic.engine.paintings import LOOK_AFTER, NODE_WEIGHT, Chains
from glyptic.engine.reader import Reader
from glyptic.store import Store
from tests.conftest import colourful, png_bytes, stack_of

GROWS = 640 * 2**10
"""Bytes by which plans and paintings may grow while they are read, until they are looked after again."""
HEAD = {"to": 1, "size": 90, "hardness": 0, "opacity": 0.3, "flow": 0.5}
LAYERS = (
    {"kind": "curves", "settings": {"points": {"rgb": [[0, 0], [0.5, 0.6], [1, 1]]}}},
    {"kind": "grey", "id": "g"},
    {"kind": "grain", "settings": {"amount": 0.3}},
    {"kind": "blur", "settings": {"sigma": 3}, "mask": {"start": "closed"}},
)


@pytest.fixture
def shop(tmp_path):
    store = Store(tmp_path / "data")
    yield Workshop(store, limit=10_000_000, budget=Budget(10 * 2**20))
    store.close()


def test_the_shares_are_the_whole():
    budget = Budget(1600)
    assert (
        budget.tiles + budget.tables + budget.shown + budget.codes + budget.scratch + budget.keys + budget.hand
        == budget.whole
    )


def test_a_day_of_work_stays_within_the_budget(shop):
    """Strokes on two layers, drawn as the page draws them, with settings dragged between: each part within its share,
    but for what is in use at the moment."""
    codes = (np.moveaxis(colourful(600, 450), 0, 2) >> 8).astype(np.uint8)
    plate = open_picture(shop, png_bytes(codes), "one.png")
    for layer in LAYERS:
        edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": layer})
    names = {layer.kind: layer.id for layer in shop.current(plate).stack.layers}
    rng = np.random.default_rng(3)
    for n in range(60):
        layer, target = (names["grey"], "grey") if n % 2 else (names["blur"], "mask")
        points = rng.uniform([0, 0], [600, 450], (4, 2)).tolist()
        at = Looking("finished", layer, 0, Rect(0, 0, 600, 450))
        hand = paint.begin(shop, plate, layer, target, {**HEAD, "points": points[:2]})
        shop.in_hand.put((plate, str(n)), hand)
        paint.go_on(hand, 2, points[2:])
        paint.look(shop, hand, at)
        current = paint.keep_stroke(shop, plate, layer, target, {**HEAD, "points": points}, str(n))
        if n % 10 == 0:
            change = {
                "layer": names["curves"],
                "field": "settings.points.rgb",
                "value": [[0, 0], [0.5, 0.3 + n / 500], [1, 1]],
            }
            current = edit.apply_edit(shop, plate, current.revision, "set", change)
            for *_, key in tile_keys(shop, current.stack, at):
                tile_pixels(shop, key)
    for part, (held, allowed) in shop.held.items():
        assert held <= allowed + (GROWS if part in ("paintings", "plans") else 0), part
    assert shop.held["hand"][0] == 0, "a stroke that was kept is no longer in the hand"
    assert shop.tiles.counts["dropped"] > 0


def test_what_paintings_know_of_their_tiles_is_kept_within_its_share():
    """Each stroke of a day leaves a state with keys for every tile of a large picture."""
    strokes = (
        stack_of({"kind": "grey", "strokes": [{**HEAD, "points": [[90 * n, 50 * n]]} for n in range(90)]})
        .layers[1]
        .strokes
    )
    chains, eye = Chains(budget=2 * 2**20), Reader(TileCache(), Canvas(3000, 2000), 0)
    for count in range(1, 91):
        node = chains.painting(0.5, strokes[:count])
        for tx, ty in eye.bounds.tiles():
            eye.key(node, tx, ty)
        assert chains.bytes <= chains.budget + LOOK_AFTER * 2 * (NODE_WEIGHT + 96 * 400)
    assert chains.painting(0.5, strokes) is node, "what is in use stays"


def test_what_has_grown_is_weighed_anew():
    kept = Recent(9, budget=100, weigh=len)
    lists = {name: kept.put(name, []) for name in "abc"}
    lists["a"] += [0] * 90
    lists["b"] += [0] * 90
    kept.put("d", [0])
    assert [kept.get(name) is None for name in "abcd"] == [True, False, False, False]
    kept.put("e", [0] * 500)
    assert kept.get("e") is not None and kept.get("b") is None


def test_tables_are_kept_by_what_they_weigh():
    cache = TileCache(tables=10_000)
    for n in range(20):
        cache.ready(bytes([n]), lambda: (np.zeros(500, np.float32), None))
    assert 0 < cache.table_bytes <= 10_000
    assert weight((np.zeros(500, np.float32), None)) > 2000
