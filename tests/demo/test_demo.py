"""The demo shelf: it fills once, its stacks are sound, and what is seen zoomed out is what is exported."""

import json
from importlib.resources import files

import numpy as np
import pytest
from skimage.color import deltaE_ciede2000, rgb2lab

from glyptic.actions import shelve
from glyptic.actions.render_file import open_stack_file, rendering
from glyptic.actions.workshop import Workshop
from glyptic.demo.shelf import demo_entries, fill_demo_shelf
from glyptic.store import Store

DEMO = files("glyptic.demo")
STACKS = sorted(entry.name for entry in DEMO.joinpath("stacks").iterdir() if entry.name.endswith(".json"))
LEVEL = 2
MEAN, HIGH = 1.0, 3.0
"""ΔE2000 between the bench's picture and the export reduced to its level: the mean, and the 99th percentile."""


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """The demo's stacks beside its plates, as stack files want them."""
    made = tmp_path_factory.mktemp("demo")
    for part in ("plates", "stacks"):
        for entry in DEMO.joinpath(part).iterdir():
            (made / entry.name).write_bytes(entry.read_bytes())
    return made


@pytest.mark.parametrize("name", STACKS)
def test_what_is_seen_zoomed_out_is_what_is_exported(folder, name):
    opened = open_stack_file(folder / name)
    seen = rendering(opened, LEVEL, depth=16).whole().colour / 65535
    full = rendering(opened, depth=16).whole().colour / 65535
    k = 1 << LEVEL
    h, w = full.shape[0] // k, full.shape[1] // k
    seen, reduced = seen[:h, :w], full[: h * k, : w * k].reshape(h, k, w, k, 3).mean((1, 3))
    difference = deltaE_ciede2000(rgb2lab(seen), rgb2lab(reduced))
    assert difference.mean() < MEAN and np.percentile(difference, 99) < HIGH


@pytest.mark.parametrize("name", STACKS)
def test_the_worked_stacks_are_painted_and_masked_by_hand(name):
    plain = json.loads(DEMO.joinpath("stacks", name).read_text())
    text = json.dumps(plain)
    assert text.count('"points"') > 10 and text.count('"mask"') >= 3 and '"grey"' in text


def test_the_shelf_fills_once_and_keeps_what_is_removed_removed(tmp_path):
    few = [entry for entry in demo_entries() if "low" not in entry["picture"]][:3]
    shop = Workshop(Store(tmp_path))
    fill_demo_shelf(shop, few)
    cards = shelve.list_plates(shop)
    assert [card.name for card in cards] == [entry["name"] for entry in few]
    assert sum(len(shop.stack(bytes.fromhex(card.root)).layers) > 5 for card in cards) >= 2
    shelve.remove(shop, cards[0].id)
    fill_demo_shelf(shop, few)
    assert len(shelve.list_plates(shop)) == len(few) - 1


def test_every_plate_of_the_shelf_is_there():
    for entry in demo_entries():
        assert DEMO.joinpath("plates", entry["picture"]).is_file()
