"""Kits kept from plates and laid on others: the same pixels, what is left out, what is asked, what is found."""

import json
from io import BytesIO
from zipfile import ZipFile

import numpy as np
import pytest

from glyptic.actions import copying, shelve
from glyptic.actions.edit import apply_edit
from glyptic.actions.kits import keeping as kits
from glyptic.actions.kits.adding import kept_kit
from glyptic.actions.kits.files import Job, work
from glyptic.actions.open_picture import open_picture
from glyptic.base.errors import DocumentError, NameTaken, NotFound, PictureError
from glyptic.demo.shelf import demo_kits
from glyptic.document.kit_making import Keeping
from glyptic.document.kits import read_kit
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import read_picture
from glyptic.store.sweeping import empty_bin, sweep
from tests.conftest import colourful, png_bytes

DARKER = {"kind": "exposure", "name": "Darker", "settings": {"stops": -0.5}}
STROKE = {"points": [[90, 80, 1], [200, 90, 1]], "size": 60, "hardness": 0, "opacity": 1, "flow": 1, "to": 1}
OVAL = {"kind": "oval", "centre": [160, 100], "radii": [60, 40], "softness": 0.5}
PAINTED = {**DARKER, "name": "Painted", "mask": {"start": "closed", "parts": [{"kind": "paint", "strokes": [STROKE]}]}}


def picture(width=320, height=200, seed=5):
    return png_bytes(np.moveaxis(colourful(width, height, seed) >> 8, 0, 2).astype(np.uint8))


@pytest.fixture
def plate(shop):
    return open_picture(shop, picture(), "vase.png")


@pytest.fixture
def other(shop):
    return open_picture(shop, picture(seed=9), "jar.png")


def edit(shop, plate, name, **arguments):
    return apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def with_layers(shop, plate, *layers):
    """The ids of layers added one after the other."""
    made = []
    for layer in layers:
        known = {one.id for one in shop.current(plate).stack.walk()}
        stack = edit(shop, plate, "add-layer", layer=layer).stack
        made.append(next(one.id for one in stack.layers if one.id not in known))
    return made


def finished(shop, plate):
    return render(shop.plan(shop.current(plate).stack), TileCache(), depth=16).colour


def test_a_kit_on_another_plate_makes_what_its_layers_make_there(shop, plate, other):
    chosen = with_layers(shop, plate, {**DARKER, "mask": {"parts": [OVAL]}}, PAINTED)
    kit = kits.keep_kit(shop, plate, chosen, Keeping("Two"))
    untouched = finished(shop, other)
    copied = copying.copied(shop, plate, chosen)
    copying.paste(shop, other, shop.current(other).revision, copied, None)
    pasted = finished(shop, other)
    edit(shop, other, "remove-layers", layers=[layer.id for layer in shop.current(other).stack.layers[1:]])
    added = edit(shop, other, "add-kit", kit=kit)
    assert np.array_equal(finished(shop, other), pasted) and not np.array_equal(pasted, untouched)
    group = added.stack.find(added.chosen)
    assert (group.kind, group.name, group.opacity) == ("group", "Two", 1.0)
    assert "‘Two’" in added.sentence
    weaker = edit(shop, other, "add-kit", kit=kit, strength=0.4)
    assert weaker.stack.layers[-1].opacity == 0.4 and "40 %" in weaker.sentence


def test_a_kit_added_closed_changes_nothing_until_it_is_painted_in(shop, plate, other):
    kit = kits.keep_kit(shop, plate, with_layers(shop, plate, DARKER), Keeping("One"))
    untouched = finished(shop, other)
    added = edit(shop, other, "add-kit", kit=kit, closed=True)
    assert np.array_equal(finished(shop, other), untouched)
    edit(shop, other, "put-part", layer=added.chosen, part=None, value={"kind": "paint", "strokes": [STROKE]})
    assert not np.array_equal(finished(shop, other), untouched)


def test_a_kit_turned_over_takes_back_what_it_does(shop, plate, other):
    kit = kits.keep_kit(shop, plate, with_layers(shop, plate, DARKER), Keeping("One"))
    untouched = finished(shop, other).astype(int)
    edit(shop, other, "add-kit", kit=kit)
    edit(shop, other, "add-kit", kit=kit, opposite=True)
    assert np.abs(finished(shop, other) - untouched).max() <= 1
    grey = {"kind": "invert", "name": "Turned", "settings": {"strength": 1}}
    without = kits.keep_kit(shop, plate, with_layers(shop, plate, grey), Keeping("Without"))
    with pytest.raises(DocumentError, match="nothing in it has a contrary"):
        edit(shop, other, "add-kit", kit=without, opposite=True)


def test_without_painting_a_kit_holds_nothing_made_by_hand_for_one_picture(shop, plate):
    shaped = {**DARKER, "name": "Shaped", "mask": {"start": "closed", "parts": [OVAL, PAINTED["mask"]["parts"][0]]}}
    stroked = {"kind": "grey", "name": "Grey", "strokes": [STROKE]}
    chosen = with_layers(shop, plate, PAINTED, shaped, stroked)
    kit = kept_kit(shop, kits.keep_kit(shop, plate, chosen, Keeping("Bare", painting=False)))
    painted, with_shape, grey = kit.layers
    assert painted.mask is None, "what was painted closed is open"
    assert [part.kind for part in with_shape.mask.parts] == ["oval"] and with_shape.mask.start == "closed"
    assert not grey.strokes


def test_masks_go_along_with_what_is_linked_to_them(shop, plate, other):
    [giver] = with_layers(shop, plate, {**DARKER, "mask": {"parts": [OVAL]}})
    [taker] = with_layers(shop, plate, {**DARKER, "name": "Taker", "mask": {"linked": giver}})
    kit = kept_kit(shop, kits.keep_kit(shop, plate, [giver, taker], Keeping("Both")))
    assert kit.layers[1].mask.linked == kit.layers[0].id
    alone = kept_kit(shop, kits.keep_kit(shop, plate, [taker], Keeping("Alone")))
    assert not alone.layers[0].mask.linked and [part.kind for part in alone.layers[0].mask.parts] == ["oval"]
    edit(shop, plate, "set", layer=giver, field="mask.invert", value=True)
    edit(shop, plate, "put-part", layer=taker, part=None, value=OVAL)
    with pytest.raises(DocumentError, match="takes its mask from"):
        kits.keep_kit(shop, plate, [taker], Keeping("Neither"))


def test_what_lies_over_a_sheet_is_kept_at_the_size_of_the_picture(shop, plate, other):
    frame = {"corners": [[0, 0], [160, 0], [160, 100], [0, 100]], "size": [160, 100]}
    edit(shop, plate, "set-frame", frame=frame)
    held = {"kind": "vignette", "name": "Held", "settings": {"stops": -1, "centre": [80, 50], "radii": [70, 40]}}
    edit(shop, plate, "add-layer", layer=held, after="@frame")
    kit = kits.keep_kit(shop, plate, with_layers(shop, plate, DARKER), Keeping("With", over=True))
    [over] = kept_kit(shop, kit).frame_layers
    assert kept_kit(shop, kit).size == (320, 200) and over.settings["centre"] == (160, 100)
    stack = edit(shop, other, "add-kit", kit=kit).stack
    assert stack.frame.sheet == (320, 200) and stack.sheet_layers[0].layers[0].settings["radii"] == (140, 80)


def test_a_kit_is_kept_anew_from_its_changed_group_and_its_name_is_asked_for(shop, plate, other):
    kit = kits.keep_kit(shop, plate, with_layers(shop, plate, DARKER), Keeping("Lamp", "by the window"))
    added = edit(shop, other, "add-kit", kit=kit, strength=0.8)
    inner = added.stack.find(added.chosen).layers[0]
    edit(shop, other, "set", layer=inner.id, field="settings.stops", value=-2)
    with pytest.raises(NameTaken) as asked:
        kits.keep_kit(shop, other, [added.chosen], Keeping("lamp"))
    assert asked.value.number == kit and kept_kit(shop, kit).layers[0].settings["stops"] == -0.5
    assert kits.keep_kit(shop, other, [added.chosen], Keeping("Lamp"), in_place_of=kit) == kit
    [layer] = kept_kit(shop, kit).layers
    assert layer.settings["stops"] == -2, "what is in the group, not the group: its opacity was the strength"
    with pytest.raises(DocumentError, match="choose cards first"):
        kits.keep_kit(shop, other, ["base"], Keeping("Nothing"))


def test_kits_are_renamed_removed_put_back_and_go_with_the_bin(shop, plate):
    chosen = with_layers(shop, plate, DARKER)
    first, second = (kits.keep_kit(shop, plate, chosen, Keeping(name)) for name in ("b", "A"))
    assert [card.name for card in kits.list_kits(shop)] == ["A", "b"]
    with pytest.raises(NameTaken):
        kits.reword_kit(shop, first, "a", "")
    kits.reword_kit(shop, first, "Lamp", "for evenings")
    assert kept_kit(shop, first).note == "for evenings"
    kits.remove_kit(shop, first)
    with pytest.raises(NotFound):
        edit(shop, plate, "add-kit", kit=first)
    kits.reword_kit(shop, second, "lamp", "")
    kits.put_kit_back(shop, first)
    assert [card.name for card in kits.list_kits(shop)] == ["lamp", "Lamp 2"]
    kits.remove_kit(shop, first)
    empty_bin(shop.store, -1)
    assert not kits.list_kits(shop, removed=True)


def test_a_kits_pictures_stay_while_it_is_kept_and_travel_with_its_file(shop, plate, tmp_path):
    texture = open_picture(shop, picture(60, 40, 3), "texture.png")
    source = shop.current(texture).asset
    laid = {"kind": "picture", "name": "Texture", "source": source, "blend": "multiply", "opacity": 0.5}
    chosen = with_layers(shop, plate, laid)
    kit = kits.keep_kit(shop, plate, chosen, Keeping("Textured"))
    name, content = kits.written_kit(shop, kit)
    expected = finished(shop, plate)
    edit(shop, plate, "remove-layers", layers=chosen)
    shelve.remove(shop, texture)
    shelve.remove(shop, plate)
    empty_bin(shop.store, -1)
    sweep(shop.store, grace=-1)
    assert shop.store.assets.read(source), "a kit keeps what it refers to"
    kits.remove_kit(shop, kit)
    empty_bin(shop.store, -1)
    sweep(shop.store, grace=-1)
    with pytest.raises(NotFound):
        shop.store.assets.read(source)
    [again] = kits.read_kit_files(shop, {name: content})
    fresh = open_picture(shop, picture(), "vase.png")
    edit(shop, fresh, "add-kit", kit=again)
    assert name == "Textured.zip" and np.array_equal(finished(shop, fresh), expected)
    with ZipFile(BytesIO(content)) as packed:
        packed.extractall(tmp_path)
    (tmp_path / "in.png").write_bytes(picture())
    outcome = work(
        Job(
            str(tmp_path / "kit.json"),
            str(tmp_path / "in.png"),
            str(tmp_path / "out.png"),
            delivery={"format": "png", "depth": "16"},
        )
    )
    assert not outcome.trouble
    assert np.array_equal(np.moveaxis(read_picture(tmp_path / "out.png", 10**6).codes, 0, 2), expected)


@pytest.mark.parametrize(
    "files",
    [
        {"kit.json": b"{"},
        {"kit.json": b'{"format": "glyptic-stack", "version": 1}'},
        {"photo.png": b"no"},
        {"kit.zip": b"PK\x03\x04nothing"},
        {"kit.json": json.dumps({"format": "glyptic-kit", "version": 1, "name": "x", "size": [9, 9],
                                 "layers": [{"kind": "picture", "source": "not-there.png"}]}).encode()},
    ],
)  # fmt: skip
def test_a_kit_file_with_faults_keeps_nothing(shop, files):
    with pytest.raises((DocumentError, PictureError)):
        kits.read_kit_files(shop, files)
    assert not kits.list_kits(shop)


def test_the_demo_kits_are_a_dozen_that_read_and_render(shop, plate):
    texts = demo_kits()
    assert len(texts) >= 12
    for text in texts:
        kit = read_kit(text, VOCABULARY)
        assert kit.note, kit.name
        [number] = kits.read_kit_files(shop, {"kit.json": text})
        added = edit(shop, plate, "add-kit", kit=number)
        finished(shop, plate)
        edit(shop, plate, "remove-layers", layers=[added.chosen])
