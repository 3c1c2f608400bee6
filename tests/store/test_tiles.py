"""Painted tiles on disk: kept without loss within a budget; what is damaged is thrown away, not trusted."""

import numpy as np
import pytest
from sqlalchemy import create_engine, text

from glyptic.actions import edit
from glyptic.actions.open_picture import open_picture
from glyptic.actions.settle import REST, Settler, settle
from glyptic.actions.workshop import Workshop
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.store import Store
from glyptic.store.tiles import KeptTiles, packed, unpacked
from glyptic.web.factory import create_app

STROKE = {"to": 1, "size": 60, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[20, 20], [180, 140]]}
EVEN = {name: value for name, value in STROKE.items() if name != "to"} | {"even": 9, "points": [[100, 90], [150, 90]]}


def tile(seed):
    return np.random.default_rng(seed).random((1, 40, 56), np.float32)


def key(n):
    return n.to_bytes(16, "little")


def test_a_tile_comes_back_bit_for_bit_also_in_another_process(tmp_path):
    tiles = {key(0): tile(0), key(1): np.array(0.3, np.float32), key(2): tile(2) * np.float32(1e-30)}
    kept = KeptTiles(tmp_path / "t.sqlite")
    kept.put(tiles)
    kept.close()
    again = KeptTiles(tmp_path / "t.sqlite")
    for name, expected in tiles.items():
        assert name in again and again.get(name).tobytes() == expected.tobytes()
        assert again.get(name).shape == expected.shape
    assert again.get(key(9)) is None and again.size == kept.size


def test_the_oldest_go_when_the_budget_is_used_up(tmp_path):
    kept = KeptTiles(tmp_path / "t.sqlite", budget=30_000)
    for n in range(20):
        kept.put({key(n): tile(n)})
        assert kept.size <= 30_000
    again = KeptTiles(tmp_path / "t.sqlite")
    assert 1 < len(again) < 8 and key(19) in again and key(0) not in again


@pytest.mark.parametrize("content", [b"no database at all" * 400, b""])
def test_a_damaged_file_is_made_anew(tmp_path, content):
    path = tmp_path / "t.sqlite"
    path.write_bytes(content)
    kept = KeptTiles(path)
    kept.put({key(1): tile(1)})
    assert np.array_equal(kept.get(key(1)), tile(1))


def test_a_damaged_tile_counts_as_not_here(tmp_path):
    kept = KeptTiles(tmp_path / "t.sqlite")
    kept.put({key(1): tile(1), key(2): tile(2)})
    with create_engine(f"sqlite:///{tmp_path / 't.sqlite'}").begin() as connection:
        connection.execute(text("update tile set content = substr(content, 1, 900) where number = 1"))
    assert kept.get(key(1)) is None and key(1) not in kept
    assert np.array_equal(kept.get(key(2)), tile(2))


@pytest.mark.parametrize("at", [0, 5, 40, -1])
def test_a_bit_turned_anywhere_in_a_tile_is_noticed(at):
    content = bytearray(packed(tile(1)))
    content[at] ^= 4
    with pytest.raises((ValueError, RuntimeError)):
        unpacked(bytes(content))


@pytest.fixture
def painted(shop, photo):
    """A plate with a grey layer and a painted mask, and its stack."""
    plate = open_picture(shop, photo, "one.png")
    parts = [{"kind": "paint", "strokes": [STROKE] * 3}, {"kind": "paint", "strokes": [{**STROKE, "to": 0}]}]
    for layer in (
        {"kind": "grey", "id": "g", "strokes": [{**STROKE, "points": [[i, 20], [99, 3 * i]]} for i in range(70)] + [EVEN]},
        {"kind": "exposure", "settings": {"stops": 1}, "mask": {"start": "closed", "parts": parts}},
    ):  # fmt: skip
        current = edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": layer})
    return plate, current.stack


def test_settled_strokes_are_never_laid_again(shop, painted, monkeypatch):
    plate, stack = painted
    expected = [render(make_plan(stack, shop.picture), TileCache(), level, depth=16).colour for level in (0, 1, 2)]
    assert settle(shop, stack) > 0
    assert settle(shop, stack) == 0
    shop.store.close()
    later = Workshop(Store(shop.store.folder))
    monkeypatch.setattr("glyptic.engine.paintings.paint", lambda *args: pytest.fail("a stroke was laid"))
    monkeypatch.setattr("glyptic.engine.paintings.even_out", lambda *args: pytest.fail("a stroke was evened"))
    for level, picture in enumerate(expected):
        plan = make_plan(later.current(plate).stack, later.picture)
        assert np.array_equal(render(plan, TileCache(deep=later.store.tiles.get), level, depth=16).colour, picture)
    later.store.close()


def test_settling_gives_up_when_asked_and_goes_on_where_it_was(shop, painted):
    _, stack = painted
    answers = iter([True, True, False])
    assert settle(shop, stack, lambda: next(answers)) == 2
    assert len(shop.store.tiles) > 0
    assert settle(shop, stack) + len(shop.store.tiles) > 2


def test_a_settler_works_in_the_background(shop, painted):
    plate, stack = painted
    settler = Settler(shop)
    settler.soon(plate, stack)
    settler.finished.wait(60)
    assert settle(shop, stack) == 0


def test_a_rest_begins_when_every_request_has_been_answered(shop, monkeypatch):
    now, answered = [100.0], 105.0

    def sleep(seconds):
        now[0] += seconds
        if now[0] >= answered and settler.at_work:
            settler.leave()

    monkeypatch.setattr("glyptic.actions.settle.time.monotonic", lambda: now[0])
    monkeypatch.setattr("glyptic.actions.settle.time.sleep", sleep)
    settler = Settler(shop)
    client = create_app(shop, settler=settler).test_client()
    client.application.view_functions["shelf.shelf"] = lambda: str(settler.at_work)
    assert client.get("/").get_data(as_text=True) == "1" and settler.at_work == 0
    settler.arrive()
    settler.rest()
    assert settler.at_work == 0 and now[0] >= answered + REST
