"""OpenRaster: what another reader composites is the finished picture, and we get everything back."""

import io
import zipfile

import numpy as np
import pytest
from defusedxml import ElementTree
from PIL import Image

from glyptic.actions import edit
from glyptic.actions.open_picture import open_picture
from glyptic.actions.opening import open_any
from glyptic.actions.openraster import write_openraster
from glyptic.actions.shelve import list_plates
from glyptic.base.errors import GlypticError
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from tests.conftest import png_bytes

STROKE = {"to": 1, "size": 90, "hardness": 0, "opacity": 0.6, "flow": 0.7, "points": [[40, 60, 1], [250, 120, 1]]}
OVAL = {"kind": "oval", "op": "show", "centre": [160, 100], "radii": [90, 60], "softness": 0.6}
CLOSED = {"start": "closed", "parts": [OVAL]}
CURVE = {"points": {"rgb": [[0, 0.1], [0.5, 0.7], [1, 0.9]]}}
LAYERS = (
    {"kind": "curves", "name": "Lift", "opacity": 0.6, "settings": CURVE, "mask": CLOSED},
    {"kind": "grey", "name": "Dodge <&>", "strokes": [STROKE]},
    {"kind": "gradient", "name": "Warm", "blend": "multiply", "opacity": 0.5, "settings": {
        "shape": "linear", "from": [0, 0], "to": [320, 0], "stops": [
            {"at": 0, "colour": [1, 0.8, 0.5]}, {"at": 1, "colour": [0.4, 0.5, 0.9], "alpha": 0.3}]}},
    {"kind": "group", "name": "Both", "layers": [
        {"kind": "hue-saturation", "settings": {"saturation": 0.5}}, {"kind": "exposure", "settings": {"stops": -0.4}}]},
    {"kind": "group", "name": "Masked", "opacity": 0.7, "mask": CLOSED, "layers": [
        {"kind": "exposure", "settings": {"stops": -1}}]},
    {"kind": "exposure", "name": "Off", "visible": False, "settings": {"stops": 3}},
)  # fmt: skip


@pytest.fixture
def plate(shop, photo):
    plate = open_picture(shop, photo, "one.png")
    for layer in LAYERS:
        current = shop.current(plate)
        arguments = {"layer": layer, "after": current.stack.layers[-1].id}
        edit.apply_edit(shop, plate, current.revision, "add-layer", arguments)
    return plate


@pytest.fixture
def written(shop, plate):
    stream = io.BytesIO()
    write_openraster(shop, plate, stream)
    return stream


def picture(archive, name):
    return np.asarray(Image.open(io.BytesIO(archive.read(name))).convert("RGBA")).astype(float) / 255


def composited(archive, stack, below):
    """As the specification has it: layers from the last to the first, those of a stack that is not isolated among
    them."""
    for element in reversed(list(stack)):
        if element.get("visibility") == "hidden":
            continue
        assert element.get("composite-op") == "svg:src-over"
        if element.tag == "stack":
            assert element.get("isolation") == "auto" and element.get("opacity") == "1"
            below = composited(archive, element, below)
            continue
        layer = picture(archive, element.get("src"))
        alpha = layer[:, :, 3:] * float(element.get("opacity"))
        below = below + alpha * (layer[:, :, :3] - below)
    return below


def test_another_reader_shows_the_finished_picture(shop, plate, written):
    archive = zipfile.ZipFile(written)
    assert archive.namelist()[0] == "mimetype" and archive.read("mimetype") == b"image/openraster"
    image = ElementTree.fromstring(archive.read("stack.xml"))
    seen = composited(archive, image.find("stack"), np.ones((200, 320, 3)))
    finished = render(shop.plan(shop.current(plate).stack), TileCache()).colour / 255
    assert np.array_equal(picture(archive, "mergedimage.png")[:, :, :3], finished)
    assert np.abs(seen - finished).max() <= 6 / 255 and np.abs(seen - finished).mean() < 0.8 / 255
    assert max(Image.open(io.BytesIO(archive.read("Thumbnails/thumbnail.png"))).size) <= 256
    names = [element.get("name") for element in image.iter() if element.tag in ("layer", "stack")]
    assert {"Lift", "Dodge <&>", "Both", "Masked", "Off"} <= set(names)


def test_we_get_everything_back(shop, plate, written):
    again = open_any(shop, written, "one.ora")
    assert shop.current(again).stack == shop.current(plate).stack


def made(description, **files):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", description)
        for name, content in files.items():
            archive.writestr(f"data/{name}.png", content)
    stream.seek(0)
    return stream


def one(colour, size=(20, 30)):
    return png_bytes(np.full((*size, 4), colour, np.uint8))


def test_a_file_of_another_program_becomes_layers(shop):
    description = (
        '<image w="30" h="20"><stack><stack name="G" opacity="0.5"><layer name="Red" src="data/red.png" x="4" y="2" '
        'composite-op="svg:multiply"/></stack><layer name="Sand" src="data/sand.png"/></stack></image>'
    )
    red, sand = one([255, 0, 0, 255], (5, 6)), one([200, 180, 140, 255])
    plate = open_any(shop, made(description, red=red, sand=sand), "other.ora")
    stack = shop.current(plate).stack
    assert [layer.name for layer in stack.walk()] == ["Base", "G", "Red"]
    px = render(shop.plan(stack), TileCache()).colour
    assert px[0, 0].tolist() == [200, 180, 140]
    assert px[4, 6].tolist() == pytest.approx([228, 90, 70], abs=1), "multiplied in its group, over nothing"


HOSTILE = {
    "a missing layer": made('<image w="9" h="9"><stack><layer src="data/gone.png"/></stack></image>'),
    "an entity": made('<!DOCTYPE x [<!ENTITY e "e">]><image w="9" h="9"><stack/>&e;</image>'),
    "no XML": made("<image"),
    "no size": made("<image><stack/></image>"),
    "a size beyond the limit": made('<image w="90000" h="90000"><stack/></image>'),
    "a path that climbs": made('<image w="9" h="9"><stack><layer src="../../etc/passwd"/></stack></image>'),
    "no picture": made('<image w="9" h="9"><stack><layer src="data/x.png"/></stack></image>', x=b"no picture"),
    "nested too deep": made(f'<image w="9" h="9"><stack>{"<stack>" * 40}{"</stack>" * 40}</stack></image>'),
}


@pytest.mark.parametrize("how", HOSTILE)
def test_a_hostile_file_changes_nothing(shop, how):
    with pytest.raises(GlypticError) as refused:
        open_any(shop, HOSTILE[how], "bad.ora")
    assert "Nothing was changed" in str(refused.value) or "nothing was changed" in str(refused.value)
    assert not list_plates(shop)
