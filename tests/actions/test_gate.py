"""What cannot be drawn is not kept; and what was kept and cannot be drawn never takes its plate with it."""

import numpy as np
import pytest

from glyptic.actions import edit, history
from glyptic.actions.open_picture import keep_asset, open_picture
from glyptic.actions.paint import keep_stroke
from glyptic.base.errors import DocumentError, GlypticError, NotFound
from glyptic.document.values import StrokePoints
from glyptic.store import plates
from glyptic.store.assets import content_hash
from tests.conftest import png_bytes

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[10, 10, 1], [90, 60, 1]]}


@pytest.fixture
def plate(shop, photo):
    return open_picture(shop, photo, "one.png")


def change(shop, plate, name, **arguments):
    return edit.apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def masked_by(kind, source):
    return {"kind": "exposure", "mask": {"start": "closed", "parts": [{"kind": kind, "source": source}]}}


@pytest.mark.parametrize("kind", ["raster", "region"])
def test_a_mask_of_another_size_is_refused(shop, plate, kind):
    """Kernels would read beyond it: foreign memory on screen."""
    small = keep_asset(shop, png_bytes(np.zeros((20, 30), np.uint8)), "small.png")
    before = shop.current(plate)
    for refused in (small, "0" * 64, "no such.png"):
        with pytest.raises(DocumentError, match="source"):
            change(shop, plate, "add-layer", layer=masked_by(kind, refused))
        with pytest.raises(DocumentError, match="source"):
            edit.try_edit(shop, plate, "add-layer", {"layer": masked_by(kind, refused)})
    assert shop.current(plate) == before


def test_a_colour_picture_is_no_mask(shop, plate, photo):
    with pytest.raises(DocumentError, match="grey"):
        change(shop, plate, "add-layer", layer=masked_by("raster", content_hash(photo)))


def test_a_reader_never_goes_beyond_a_picture(shop, plate):
    picture = shop.picture(shop.current(plate).asset)
    with pytest.raises(ValueError, match="does not lie"):
        picture.colour.read(shop.plan(shop.current(plate).stack).reader(shop.tiles, 0).bounds.grown(1), 0)


FAR = {
    "a stroke": ("add-stroke", {"target": "grey", "stroke": {**STROKE, "points": [[1e19, 0, 1]]}}),
    "a point of one": ("add-stroke", {"target": "grey", "stroke": {**STROKE, "points": [[0, 0, 1], [1e8, 0, 1]]}}),
    "too many dabs": ("add-stroke", {"target": "grey", "stroke": {**STROKE, "spacing": 0, "points": [[0, 0, 1], [9e5, 0, 1]]}}),
    "a shift": ("change-strokes", {"strokes": [[-1, 0]], "shift": [1e308, 0]}),
    "a shift by little too much": ("change-strokes", {"strokes": [[-1, 0]], "shift": [999_999, 0]}),
    "a shifted mask": ("shift-mask", {"by": [1e308, 0]}),
    "a ramp": ("add-part", {"part": {"kind": "ramp", "from": [1e7, 0], "to": [0, 0]}}),
    "an outline": ("add-part", {"part": {"kind": "outline", "points": [[0, 0]] * 20_000}}),
}  # fmt: skip


@pytest.mark.parametrize("what", FAR)
def test_what_lies_too_far_is_refused_by_field(shop, plate, what):
    change(shop, plate, "add-layer", layer={"kind": "grey", "id": "g", "mask": {}})
    grey = shop.current(plate).chosen
    keep_stroke(shop, plate, grey, "mask", STROKE)
    before = keep_stroke(shop, plate, grey, "grey", STROKE)
    name, arguments = FAR[what]
    with pytest.raises(DocumentError) as refused:
        change(shop, plate, name, layer=grey, **arguments)
    assert refused.value.faults[0].field
    assert shop.current(plate) == before


def kept_unseen(shop, plate, stack, sentence="Kept by an earlier release"):
    """A state that went past the gate."""
    current = shop.current(plate)
    with shop.store.writing() as session:
        row = plates.plate_of(session, plate)
        found = plates.add_revision(
            session, shop.store.objects, row, stack, sentence, "base", current.revision, current.head
        )
        return found.id


def broken(stack, how):
    grey = stack.layers[-1]
    if how == "a stroke far away":
        far = type(grey.strokes[0])(StrokePoints.of([(1e19, 0.0, 1.0)]), 10, 0, 1, 1)
        return stack.replaced(type(grey)(**{**vars(grey), "strokes": (far,)}))
    return stack.replaced(
        type(grey)(**{**vars(grey), "kind": "picture", "settings": {}, "strokes": (), "source": "0" * 64})
    )


@pytest.mark.parametrize("how", ["a stroke far away", "a picture that is gone"])
def test_a_plate_whose_newest_state_cannot_be_drawn_opens_on_the_last_good_one(shop, plate, how):
    change(shop, plate, "add-layer", layer={"kind": "grey", "strokes": [STROKE]})
    good = shop.current(plate)
    wrong = kept_unseen(shop, plate, broken(good.stack, how))
    shown = shop.current(plate)
    assert shown.stack == good.stack and shown.revision == good.revision and shown.head == wrong
    assert "cannot be drawn" in shown.trouble and "nothing was lost" in shown.trouble
    log = history.read_log(shop, plate)[0]
    assert [(entry.id, entry.where) for entry in log[:2]] == [(wrong, "ahead"), (good.revision, "now")]
    with pytest.raises(GlypticError):
        history.go_to(shop, plate, wrong)
    assert history.undo(shop, plate, good.revision).trouble == ""


def test_work_goes_on_from_the_last_good_state(shop, plate):
    change(shop, plate, "add-layer", layer={"kind": "grey", "strokes": [STROKE]})
    kept_unseen(shop, plate, broken(shop.current(plate).stack, "a stroke far away"))
    after = change(shop, plate, "add-layer", layer={"kind": "exposure"})
    assert after.trouble == "" and after.head == after.revision and len(after.stack.layers) == 3


def test_a_plate_none_of_whose_states_can_be_drawn_says_why(shop, plate):
    asset = shop.current(plate).asset
    (shop.store.folder / "assets" / asset[:2] / asset).unlink()
    shop.store.assets.levels.drop(asset)
    for cache in (shop.pictures, shop.sound, shop.admitted, shop.plans):
        cache.clear()
    with pytest.raises(GlypticError, match="missing"):
        shop.current(plate)
    with pytest.raises(NotFound):
        shop.current(plate + 1)
