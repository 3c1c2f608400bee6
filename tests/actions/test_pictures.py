"""Pictures over a plate: merged copies, other plates, a second rendition, copies for another plate."""

import sys
from importlib.resources import files
from pathlib import Path

import numpy as np
import pytest

from glyptic.actions import copying, framing, merging, placing, registering
from glyptic.actions.edit import apply_edit
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import DocumentError
from glyptic.document.values import FRAME
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from tests.conftest import colourful, png_bytes

PLATES = files("glyptic.demo").joinpath("plates")
LIFT = {"kind": "exposure", "name": "Lift", "settings": {"stops": 0.5}}


@pytest.fixture
def plate(shop, photo):
    return open_picture(shop, photo, "vase.png")


def edit(shop, plate, name, **arguments):
    return apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def finished(shop, plate):
    return render(shop.plan(shop.current(plate).stack), TileCache(), depth=16).colour


def test_a_merged_copy_is_what_it_was_made_of_and_says_when_that_has_changed(shop, plate):
    added = edit(shop, plate, "add-layer", layer=LIFT)
    before = finished(shop, plate)
    copy = merging.merge(shop, plate, added.revision, added.chosen)
    assert np.array_equal(finished(shop, plate), before)
    assert not merging.is_stale(shop, copy.stack, copy.stack.find(copy.chosen))
    hidden = edit(shop, plate, "show-layers", layers=[added.chosen], visible=False)
    assert merging.is_stale(shop, hidden.stack, hidden.stack.find(copy.chosen))
    assert np.array_equal(finished(shop, plate), before), "it stays as it was made"
    renewed = merging.renew(shop, plate, hidden.revision, copy.chosen)
    assert not merging.is_stale(shop, renewed.stack, renewed.stack.find(copy.chosen))
    assert not np.array_equal(finished(shop, plate), before)


def test_a_copy_of_the_sheet_is_as_large_as_the_sheet_and_one_of_the_picture_as_the_picture(shop, plate):
    edit(shop, plate, "set-frame", frame={"corners": [[10, 5], [210, 5], [210, 155], [10, 155]], "size": [200, 150], "border": {"top": 9}})  # fmt: skip
    over = merging.merge(shop, plate, shop.current(plate).revision, FRAME)
    assert shop.picture(over.stack.sheet_layers[0].source).canvas == (200, 159)
    below = merging.merge(shop, plate, over.revision, "base")
    assert shop.picture(below.stack.layers[1].source).canvas == (320, 200)


def test_the_picture_of_another_plate_is_taken_as_it_is_then(shop, plate):
    other = open_picture(shop, png_bytes(np.moveaxis(colourful(90, 60, 9) >> 8, 0, 2).astype(np.uint8)), "other.png")
    edit(shop, other, "add-layer", layer=LIFT)
    as_finished = finished(shop, other)
    taken = merging.add_from_plate(shop, plate, shop.current(plate).revision, other, True, "base", "open")
    edit(shop, other, "set", layer="layer-1", field="settings.stops", value=-3)
    picture = shop.picture(taken.stack.layers[1].source)
    assert np.array_equal(np.moveaxis(picture.colour.full, 0, 2), as_finished)
    opened = merging.add_from_plate(shop, plate, taken.revision, other, False, "base", "closed")
    assert opened.stack.layers[1].source == shop.current(other).asset
    assert opened.stack.layers[1].mask.start == "closed"


@pytest.mark.parametrize(
    ("way", "corners"),
    [
        ("fit", [(10, 0), (310, 0), (310, 200), (10, 200)]), ("cover", [(0, -6.667), (320, -6.667), (320, 206.667), (0, 206.667)]),
        ("stretch", [(0, 0), (320, 0), (320, 200), (0, 200)]), ("one-to-one", [(115, 70), (205, 70), (205, 130), (115, 130)]),
        ("mirror", [(205, 70), (115, 70), (115, 130), (205, 130)]),
    ],
)  # fmt: skip
def test_pictures_are_laid(shop, plate, way, corners):
    other = open_picture(shop, png_bytes(np.moveaxis(colourful(90, 60, 9) >> 8, 0, 2).astype(np.uint8)), "other.png")
    taken = merging.add_from_plate(shop, plate, shop.current(plate).revision, other, False, "base", "open")
    laid = placing.lay_picture(shop, plate, taken.revision, taken.chosen, way).stack.layers[1]
    found = placing.corners_of(laid.place, 90, 60)
    assert np.array(found) == pytest.approx(np.array(corners), abs=1e-3)


def test_a_moved_rendition_is_laid_exactly_over_and_another_picture_is_refused(shop):
    sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "scripts"))
    from make_demo_pictures import MOVED

    shop.limit = 10_000_000
    first, second, other = (
        open_picture(shop, PLATES.joinpath(name).read_bytes(), name)
        for name in ("vase-trio.jpg", "vase-trio-low-moved.jpg", "glass-bowl.jpg")
    )
    taken = merging.add_from_plate(shop, first, shop.current(first).revision, second, False, "base", "open")
    laid = registering.lay_over(shop, first, taken.revision, taken.chosen)
    places = np.array([[0, 0, 1], [3000, 0, 1], [3000, 2000, 1], [0, 2000, 1]]) @ MOVED.T
    off = np.array(laid.stack.layers[1].place.corners) - places[:, :2] / places[:, 2:]
    assert np.hypot(*off.T).max() < 0.5
    assert "laid exactly over what is below: within 0." in laid.sentence
    wrong = merging.add_from_plate(shop, first, laid.revision, other, False, "base", "open")
    with pytest.raises(DocumentError, match="does not match"):
        registering.lay_over(shop, first, wrong.revision, wrong.chosen)


def test_the_level_is_found_from_long_lines_and_how_sure_it_is(shop):
    shop.limit = 10_000_000
    panel, vases = (
        open_picture(shop, PLATES.joinpath(name).read_bytes(), name) for name in ("tile-panel.jpg", "vase-trio.jpg")
    )
    levelled = framing.level_by_lines(shop, panel, shop.current(panel).revision, True)
    assert framing.crop_of(shop, levelled.stack).turn == pytest.approx(-2, abs=0.1)
    assert "long lines agree" in levelled.sentence
    with pytest.raises(DocumentError, match="right already"):
        framing.level_by_lines(shop, panel, levelled.revision, True)
    with pytest.raises(DocumentError, match="Draw a line"):
        framing.level_by_lines(shop, vases, shop.current(vases).revision, True)


def test_layers_are_copied_to_a_plate_of_another_size(shop, plate):
    mask = {"start": "closed", "parts": [{"kind": "oval", "centre": [160, 100], "radii": [80, 50], "rotation": 0}]}
    edit(shop, plate, "add-layer", layer={**LIFT, "mask": mask})
    other = open_picture(shop, png_bytes(np.zeros((100, 160, 3), np.uint8)), "half.png")
    kept = copying.copied(shop, plate, ["layer-1"])
    pasted = copying.paste(shop, other, shop.current(other).revision, kept, "base")
    oval = pasted.stack.layers[1].mask.parts[0].settings
    assert (oval["centre"], oval["radii"]) == ((80, 50), (40, 25))
    assert "scaled from 320 × 200" in pasted.sentence
    for odd in ({}, {**kept, "size": [0, 1]}, {**kept, "layers": [{"kind": "odd"}]}, {**kept, "layers": [{"kind": "picture", "source": "f" * 64}]}):  # fmt: skip
        with pytest.raises(DocumentError):
            copying.paste(shop, other, pasted.revision, odd, "base")
    assert shop.current(other).revision == pasted.revision
