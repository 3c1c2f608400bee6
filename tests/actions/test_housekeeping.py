"""The data folder does not grow for ever, and nothing that a log can reach is ever let go."""

import os

import numpy as np
import pytest
from sqlalchemy import func, select

from glyptic.actions import edit, history, shelve
from glyptic.actions.areas import add_picture_part
from glyptic.actions.housekeeping import empty_bin_now, free_again, holdings, keep_house
from glyptic.actions.open_picture import keep_asset, open_picture
from glyptic.base.errors import DocumentError
from glyptic.document.values import FRAME
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from glyptic.store.sweeping import sweep
from glyptic.store.tables import Asset, Object
from tests.conftest import colourful, png_bytes, stack_of

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[10, 10, 1], [90, 60, 1]]}


def change(shop, plate, name, **arguments):
    return edit.apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


@pytest.fixture
def plate(shop, photo):
    """A plate with strokes enough for runs, groups, and a branch with a picture that only the log reaches."""
    plate = open_picture(shop, photo, "one.png")
    strokes = [{**STROKE, "points": [[n, 5], [n + 20, 50]]} for n in range(70)]
    inner = {"kind": "grey", "strokes": strokes, "mask": {"parts": [{"kind": "paint", "strokes": [STROKE]}]}}
    change(shop, plate, "add-layer", layer={"kind": "group", "layers": [inner]})
    change(shop, plate, "add-layer", layer={"kind": "exposure"})
    mask = png_bytes((np.indices((200, 320)).sum(0) % 255).astype(np.uint8))
    current = shop.current(plate)
    add_picture_part(shop, plate, current.revision, current.chosen, mask, "grey.png", "show")
    history.undo(shop, plate, shop.current(plate).revision)
    change(shop, plate, "add-layer", layer={"kind": "levels"})
    change(shop, plate, "set-frame", frame={"corners": [[0, 0], [300, 9], [310, 190], [5, 180]], "size": [280, 170]})
    paper = keep_asset(shop, png_bytes(np.full((60, 80), 230, np.uint8)), "paper.png")
    over = {"kind": "grey", "strokes": [STROKE], "mask": {"parts": [{"kind": "paint", "strokes": [STROKE]}]}}
    for layer in ({"kind": "picture", "source": paper}, over):
        change(shop, plate, "add-layer", layer=layer, after=FRAME)
    return plate


def count(shop, table):
    with shop.store.session() as session:
        return session.scalar(select(func.count()).select_from(table))


def every_state(shop, plate):
    return {entry.id: history.go_to(shop, plate, entry.id).stack for entry in history.read_log(shop, plate)[0]}


def test_nothing_that_a_log_reaches_is_swept(shop, plate):
    before, stored = every_state(shop, plate), (count(shop, Object), count(shop, Asset))
    assert sweep(shop.store, grace=-1).objects == 0
    assert (count(shop, Object), count(shop, Asset)) == stored
    for cache in (shop.stacks, shop.plans, shop.sound, shop.pictures):
        cache.clear()
    assert every_state(shop, plate) == before


def test_what_only_a_removed_plate_used_goes_when_the_bin_is_emptied(shop, plate):
    other = open_picture(shop, png_bytes((np.moveaxis(colourful(90, 70), 0, 2) >> 8).astype(np.uint8)), "two.png")
    change(shop, other, "add-layer", layer={"kind": "grey", "strokes": [STROKE]})
    asset = shop.current(other).asset
    objects, states = count(shop, Object), every_state(shop, plate)
    shelve.remove(shop, other)
    assert keep_house(shop).objects == 0, "a plate in the bin can be put back"
    plates, swept = empty_bin_now(shop)
    assert plates == 1 and swept.objects > 0 and count(shop, Object) == objects - swept.objects
    assert asset in shop.store.assets, "its picture was kept a moment ago"
    assert sweep(shop.store, grace=-1).assets == 1
    assert asset not in shop.store.assets and asset not in list(shop.store.assets.levels)
    assert every_state(shop, plate) == states


def test_what_is_on_its_way_is_left_alone(shop, plate):
    """An edit that is written while the sweep marks, and one that relies on objects that a sweep let go."""
    stack = stack_of({"kind": "grey", "id": "g", "strokes": [STROKE]})
    with shop.store.writing() as session:
        shop.store.objects.put(session, stack)
    assert sweep(shop.store).objects > 0
    keep_asset(shop, png_bytes(np.zeros((9, 9), np.uint8)), "coming.png")
    assert sweep(shop.store).assets == 0
    change(shop, plate, "add-layer", layer={"kind": "grey", "strokes": [STROKE]})
    shop.stacks.clear()
    assert shop.current(plate).stack.layers[-1].strokes


def test_what_can_be_made_again_is_freed_and_made_again(shop, plate):
    before = render(shop.plan(shop.current(plate).stack), TileCache()).colour
    sizes = {one.title: one.size for one in holdings(shop)}
    assert sizes["Pictures"] > 0 and sizes["Plates"] > 0 and sizes["Decoded pictures"] > 0
    assert free_again(shop) > 0.9 * sizes["Decoded pictures"]
    assert np.array_equal(render(shop.plan(shop.current(plate).stack), TileCache()).colour, before)


def test_a_mask_is_kept_packed(shop, plate):
    mask = np.zeros((200, 320), np.uint8)
    mask[50:90, 60:200] = 255
    asset = keep_asset(shop, png_bytes(mask), "mask.png")
    kept = sum(path.stat().st_size for path in (shop.store.folder / "levels" / asset).iterdir())
    assert kept < mask.nbytes / 20
    assert np.array_equal(shop.picture(asset).colour.full[0], mask.astype(np.uint16) * 257)


def test_pictures_nobody_looks_at_are_forgotten_and_come_back(shop, plate):
    asset = shop.current(plate).asset
    levels = shop.store.folder / "levels" / asset
    os.utime(levels / "levels.json", (0, 0))
    keep_house(shop)
    assert not levels.exists()
    shop.pictures.clear()
    assert shop.picture(asset).width == 320 and levels.exists()


def test_settings_are_kept_checked_and_survive_damage(shop):
    settings = shop.store.settings
    assert settings.write({"backups": 3, "bin_days": 5, "idle_days": 9})["backups"] == 3
    assert settings.read()["bin_days"] == 5
    with pytest.raises(DocumentError, match="bin_days"):
        settings.write({"backups": 3, "bin_days": 0, "idle_days": 9})
    (shop.store.folder / "settings.json").write_text("{")
    assert settings.read()["bin_days"] == 30


def test_what_was_read_before_a_sweep_is_not_taken_to_be_there_after_it(shop, plate):
    """A slow reader, and a sweep that ends while it reads."""
    stack = stack_of({"kind": "grey", "id": "g", "strokes": [STROKE] * 3})
    with shop.store.writing() as session:
        root = shop.store.objects.put(session, stack)
    shop.store.objects.forget()
    with shop.store.session() as session:
        shop.store.objects.get(session, root)
        assert sweep(shop.store).objects > 0
    with shop.store.writing() as session:
        root = shop.store.objects.put(session, stack)
    shop.store.objects.forget()
    with shop.store.session() as session:
        assert shop.store.objects.get(session, root) == stack
