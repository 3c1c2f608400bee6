"""What a plate's colours mean: another working space, another reading of its file, and what a screen shows of it."""

import io

import numpy as np
import pytest
import tifffile
from PIL import Image

from glyptic.actions import edit, history
from glyptic.actions.files import development_of, left_open, picture_file, read_anew, second_rendition, to_choose
from glyptic.actions.looking import Looking
from glyptic.actions.measure import spot
from glyptic.actions.open_picture import open_picture
from glyptic.actions.tiles import reader_and_node, rgba
from glyptic.base.errors import DocumentError
from glyptic.base.rectangles import Rect
from glyptic.demo.practice_camera import raw_of
from glyptic.document.reading import DEVELOPMENT
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from glyptic.formats.icc import of_space
from glyptic.pixels.spaces import DISPLAY_P3, SPACES, SRGB, WIDE, carried
from glyptic.pixels.transfer import linear
from tests.conftest import colourful, png_bytes

EIGHT = np.moveaxis(colourful(60, 40) >> 8, 0, 2).astype(np.uint8)


def done(shop, plate, name, **arguments):
    return edit.apply_edit(shop, plate, shop.current(plate).revision, name, arguments)


def drawn(shop, plate):
    """The finished picture, encoded 0..1, and its space."""
    stack = shop.current(plate).stack
    codes = render(shop.plan(stack), TileCache(), depth=16).colour
    return np.moveaxis(codes, 2, 0) / 65535, SPACES[stack.working_space]


def with_profile(space):
    buffer = io.BytesIO()
    Image.fromarray(EIGHT).save(buffer, "PNG", icc_profile=of_space(space))
    return buffer.getvalue()


@pytest.mark.parametrize("data", [with_profile(DISPLAY_P3), png_bytes(EIGHT)], ids=["display-p3", "untagged"])
@pytest.mark.parametrize(
    "fill", [None, {"kind": "fill", "settings": {"colour": [0.9, 0.3, 0.1]}}], ids=["base", "fill"]
)
def test_a_plate_looks_the_same_in_a_space_that_holds_its_colours(shop, data, fill):
    plate = open_picture(shop, data, "a.png")
    if fill:
        done(shop, plate, "add-layer", layer=fill)
    before, space = drawn(shop, plate)
    old = shop.current(plate).stack
    said = done(shop, plate, "set-space", space="wide")
    after, now = drawn(shop, plate)
    assert now is WIDE and "otherwise" not in said.sentence and "different" not in said.sentence
    assert np.abs(linear(carried(after, WIDE, space)) - linear(before)).max() < 2e-3
    history.undo(shop, plate, shop.current(plate).revision)
    assert shop.current(plate).stack == old
    with pytest.raises(DocumentError, match="already"):
        done(shop, plate, "set-space", space=space.name)


def test_what_is_not_exactly_as_before_is_said(shop):
    plate = open_picture(shop, with_profile(WIDE), "a.png")
    done(
        shop,
        plate,
        "add-layer",
        layer={"kind": "levels", "name": "Lift", "settings": {"rgb": {"gamma": 2}}, "opacity": 0.5},
    )
    done(shop, plate, "add-layer", layer={"kind": "fill", "settings": {"colour": [0, 1, 0]}})
    label = done(shop, plate, "set-space", space="srgb").sentence
    assert "‘Lift’" in label and "in part" in label and "1 colour of settings lie" in label


def test_values_without_a_profile_can_be_taken_otherwise(shop):
    plate = open_picture(shop, png_bytes(EIGHT), "a.png")
    assert "does not say" in left_open(shop, shop.current(plate).stack)
    before, _ = drawn(shop, plate)
    read_anew(shop, plate, shop.current(plate).revision, "", assumed="display-p3")
    after, _ = drawn(shop, plate)
    wanted = np.clip(carried(before.astype(np.float32), DISPLAY_P3, SRGB), 0, 1)
    assert np.abs(after - wanted).max() < 2e-3


def test_a_page_is_chosen_and_a_page_that_is_not_there_refused(shop):
    buffer = io.BytesIO()
    with tifffile.TiffWriter(buffer) as writer:
        for value in (60, 180):
            writer.write(np.full((30, 40, 3), value, np.uint8), photometric="rgb")
    plate = open_picture(shop, buffer.getvalue(), "two.tif")
    assert "holds 2 pictures" in to_choose(shop, shop.current(plate).stack)
    read_anew(shop, plate, shop.current(plate).revision, "", page=2.0)
    assert np.allclose(drawn(shop, plate)[0], 180 / 255, atol=1e-4)
    with pytest.raises(DocumentError):
        read_anew(shop, plate, shop.current(plate).revision, "", page=3.0)
    assert np.allclose(drawn(shop, plate)[0], 180 / 255, atol=1e-4)


def test_a_raw_file_developed_a_second_time_lies_exactly_over_itself(shop):
    plate = open_picture(shop, raw_of(np.full((60, 80, 3), 70, np.uint8)), "a.dng")
    assert picture_file(shop, shop.current(plate)).is_raw
    first, _ = drawn(shop, plate)
    brighter = development_of({**DEVELOPMENT.plain(DEVELOPMENT.defaults), "exposure": 1})
    second_rendition(shop, plate, shop.current(plate).revision, brighter)
    assert np.array_equal(drawn(shop, plate)[0], first)
    layer = shop.current(plate).stack.layers[1]
    done(shop, plate, "set", layer=layer.id, field="mask.start", value="open")
    ratio = np.median(linear(drawn(shop, plate)[0])) / np.median(linear(first))
    assert ratio == pytest.approx(2, rel=0.02)


def test_numbers_are_of_the_plates_own_values(shop):
    plate = open_picture(shop, with_profile(WIDE), "a.png")
    found = spot(shop, shop.current(plate).stack, "base", 0, 20, 10)
    assert found.after == found.before == tuple(EIGHT[10, 20])
    wanted = np.clip(carried((EIGHT[10, 20] / 255)[:, None, None], WIDE, SRGB), 0, 1)
    assert np.abs(np.array(found.swatch) - wanted[:, 0, 0] * 255).max() < 1


@pytest.mark.parametrize("screen", [SRGB, DISPLAY_P3], ids=lambda space: space.name)
def test_every_screen_is_shown_the_same_colours_as_it_has_them(shop, screen):
    plate = open_picture(shop, with_profile(WIDE), "a.png")
    px, space = drawn(shop, plate)
    looking = Looking("finished", "base", 0, Rect(0, 0, 60, 40), screen=screen.name)
    reader, node = reader_and_node(shop, shop.current(plate).stack, looking)
    shown = rgba(reader.read(node, reader.bounds))[:, :, :3] / 255
    wanted = np.clip(carried(px.astype(np.float32), space, screen), 0, 1)
    assert np.abs(np.moveaxis(shown, 2, 0) - wanted).max() < 1 / 255
