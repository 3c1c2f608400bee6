"""Deliveries: sizes, sharpening, profiles, greatest size, and what leaves; the same from the page and the command."""

import io
import json
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from glyptic.actions import edit
from glyptic.actions.delivery import Written, write_delivery
from glyptic.actions.finished import Finished, _lanczos, sharpened
from glyptic.actions.open_picture import open_picture
from glyptic.actions.presses import keep_press, list_presses, press_asked, unprintable
from glyptic.actions.previewing import preview
from glyptic.base.errors import DocumentError, ExportError, PictureError
from glyptic.cli.main import main
from glyptic.document.codec import parse_stack
from glyptic.document.delivery import DELIVERY, parsed_delivery
from glyptic.engine.plan import make_plan
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import read_picture
from glyptic.formats.decoded import Metadata
from glyptic.formats.icc import of_space
from glyptic.formats.press import press_profile
from glyptic.formats.profiles import transformed
from glyptic.pixels.spaces import DISPLAY_P3, SRGB, WIDE, tone
from tests.conftest import colourful, picture_of, png_bytes, stack_of
from tests.oracle.formulas import lin

WIDTH, HEIGHT = 300, 200


def delivered(tmp_path, stack=None, icc=b"", **settings):
    """The file that a delivery writes of a picture."""
    values = parsed_delivery({"name": "Test", "format": "png", **settings})
    path = tmp_path / f"out{Written(values).suffix}"
    plan = make_plan(stack or stack_of(), lambda source: picture_of(colourful(WIDTH, HEIGHT)))
    write_delivery(path, Finished(plan, values["border"]), Written(values, icc), Metadata(), None)
    return path


SIZED = [
    ({"long_edge": 150}, (150, 100)), ({"long_edge": 900}, (300, 200)), ({"sized": "shortest", "long_edge": 50}, (75, 50)),
    ({"sized": "exact", "width": 100, "height": 100}, (100, 67)), ({"sized": "exact", "width": 600, "height": 900}, (600, 400)),
    ({"sized": "megapixels", "megapixels": 0.015}, (150, 100)), ({"sized": "print", "millimetres": 50.8, "dpi": 300}, (600, 400)),
]  # fmt: skip


@pytest.mark.parametrize(("settings", "size"), SIZED)
def test_every_way_of_sizing(tmp_path, settings, size):
    with Image.open(delivered(tmp_path, **settings)) as image:
        assert image.size == size
        if settings.get("sized") == "print":
            assert image.info["dpi"] == pytest.approx((300, 300), abs=0.1)


def test_light_is_kept_where_a_picture_is_made_smaller(tmp_path):
    small = np.asarray(Image.open(delivered(tmp_path, long_edge=75))) / 255
    whole = np.moveaxis(colourful(WIDTH, HEIGHT), 0, 2) / 65535
    assert lin(small).mean() == pytest.approx(lin(whole).mean(), abs=2e-3)


def test_lanczos_is_three_lobes_as_wide_as_the_reduction_asks_for():
    row = np.zeros((1, 240), np.float32)
    row[0, 120] = 1
    found = _lanczos(row, (60, 1))[0]
    x = (np.arange(60) + 0.5) - 120.5 / 4
    kernel = np.where(np.abs(x) < 3, np.sinc(x) * np.sinc(x / 3), 0)
    assert found == pytest.approx(kernel / 4, abs=2e-3)


def test_sharpening_makes_edges_crisper_and_greys_stay_grey():
    px = np.full((3, 40, 60), 0.4, np.float32)
    px[:, :, 30:] = 0.6
    sharp = sharpened(px, 1.2, 0.8, SRGB)
    assert np.array_equal(sharp[0], sharp[2]) and np.ptp(sharp) > np.ptp(px)
    assert np.abs(tone(sharp, SRGB) - tone(px, SRGB)).max() <= 0.12 and np.abs(sharp - px)[:, :, :20].max() == 0


@pytest.mark.parametrize("kind", ["jpg", "webp", "avif"])
def test_a_file_is_held_to_its_greatest_size(tmp_path, kind):
    whole = delivered(tmp_path, format=kind, quality=95).stat().st_size
    most = whole // 2000
    path = delivered(tmp_path, format=kind, quality=95, most_kb=most)
    assert most * 600 < path.stat().st_size <= most * 1000
    with pytest.raises(ExportError, match="cannot be held"):
        delivered(tmp_path, format=kind, most_kb=1)


def test_a_tiff_for_the_press_has_the_inks_littlecms_gives(tmp_path):
    path = delivered(tmp_path, icc=press_profile(), format="tif", depth="16", profile="practice", black_point=False)
    with tifffile.TiffFile(path) as written:
        page = written.pages[0]
        assert page.photometric.name == "SEPARATED" and page.tags[34675].value == press_profile()
        inks = written.asarray() / 65535
    rgb = np.moveaxis(colourful(WIDTH, HEIGHT), 0, 2).astype(np.float32) / 65535
    theirs = transformed(rgb, of_space(SRGB), press_profile(), ("rgb", "cmyk"))
    assert np.abs(inks - theirs).max() < 1e-4


def test_a_jpeg_for_the_press_reads_as_it_was_meant(tmp_path):
    path = delivered(tmp_path, icc=press_profile(), format="jpg", quality=98, profile="practice")
    with Image.open(path) as image:
        assert image.mode == "CMYK" and image.info["icc_profile"] == press_profile()
    back = np.moveaxis(read_picture(path).codes, 0, 2) / 65535
    assert back.shape == (HEIGHT, WIDTH, 3)


@pytest.mark.parametrize("space", [SRGB, DISPLAY_P3, WIDE], ids=lambda space: space.name)
def test_colours_leave_in_the_space_that_is_asked_for(tmp_path, space):
    decoded = read_picture(delivered(tmp_path, depth="16", profile=space.name))
    assert decoded.space is space and decoded.profile == space.title


def test_without_the_border_the_sheet_is_what_lies_inside(tmp_path):
    frame = {
        "corners": [[10, 10], [110, 10], [110, 90], [10, 90]],
        "size": [100, 80],
        "border": {"left": 7, "bottom": 9},
    }
    plain = {"format": "glyptic-stack", "version": 1, "layers": [{"kind": "picture", "source": "x"}], "frame": frame}
    stack = parse_stack(plain, VOCABULARY)
    sizes = [Image.open(delivered(tmp_path, stack, border=border)).size for border in (True, False)]
    assert sizes == [(107, 89), (100, 80)]


@pytest.mark.parametrize(
    ("settings", "field"),
    [
        ({"format": "jpg", "depth": "16"}, "depth"), ({"format": "tif", "most_kb": 9}, "most_kb"),
        ({"format": "jxl", "profile": "wide"}, "profile"), ({"pattern": "{wonder}"}, "pattern"), ({"dpi": 3}, "dpi"),
    ],
)  # fmt: skip
def test_what_does_not_go_together_is_refused_by_its_field(settings, field):
    with pytest.raises(DocumentError) as refused:
        parsed_delivery({"name": "x", **settings})
    assert [fault.field for fault in refused.value.faults] == [field]


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "in.png").write_bytes(png_bytes(np.moveaxis(colourful(WIDTH, HEIGHT) >> 8, 0, 2).astype(np.uint8)))
    base = {"kind": "picture", "source": "in.png"}
    (tmp_path / "s.json").write_text(json.dumps({"format": "glyptic-stack", "version": 1, "layers": [base]}))
    return tmp_path


def test_render_takes_a_delivery_and_its_single_flags(folder):
    (folder / "d.json").write_text(
        json.dumps({"name": "Web", "format": "jpg", "long_edge": 90, "profile": "display-p3"})
    )
    stack, out = str(folder / "s.json"), folder / "o.jpg"
    assert main(["render", stack, str(out), "--delivery", str(folder / "d.json")]) == 0
    assert Image.open(out).size == (90, 60) and read_picture(out).space is DISPLAY_P3
    assert main(["render", stack, str(out), "--delivery", str(folder / "d.json"), "--long-edge", "60"]) == 0
    assert Image.open(out).size == (60, 40)
    (folder / "press.icc").write_bytes(press_profile())
    assert main(["render", stack, str(folder / "o.tif"), "--profile", str(folder / "press.icc")]) == 0
    assert tifffile.TiffFile(folder / "o.tif").pages[0].photometric.name == "SEPARATED"


def test_faults_of_a_delivery_are_told_with_the_others(folder, capsys):
    (folder / "d.json").write_text(json.dumps({"name": "Web", "format": "gif", "speed": 3}))
    options = ["--delivery", str(folder / "d.json"), "--intent", "loud", "--profile", "nowhere.icc"]
    assert main(["render", str(folder / "s.json"), str(folder / "o.png"), *options]) == 2
    said = capsys.readouterr().err
    assert all(word in said for word in ("delivery.format", "delivery.speed", "intent", "profile"))
    assert not (folder / "o.png").exists()


def test_every_field_of_a_delivery_has_a_flag(capsys):
    with pytest.raises(SystemExit):
        main(["render", "--help"])
    said = capsys.readouterr().out
    for name in DELIVERY.params:
        assert name in ("name", "pattern", "format") or f"--{name.replace('_', '-')}" in said


def test_a_preview_is_what_the_file_looks_like_with_its_size(shop, photo):
    plate = open_picture(shop, photo, "one.png")
    found = preview(shop, plate, {"name": "x", "format": "jpg", "quality": 20}, (0.5, 0.5))
    shown = np.asarray(Image.open(io.BytesIO(found.picture))).astype(int)
    codes = np.moveaxis(colourful(320, 200) >> 8, 0, 2).astype(int)
    assert (found.width, found.height) == (320, 200) and 0 < found.size < len(photo)
    assert 3 < np.abs(shown - codes).mean() < 60, "its artefacts are there to be seen"


def test_a_layer_that_leaves_what_a_press_holds_is_named(shop, photo):
    plate = open_picture(shop, png_bytes(np.full((60, 90, 3), (120, 118, 112), np.uint8)), "grey.png")
    for name, settings in (("Calm", {"stops": 0.1}), ("Loud", None)):
        layer = {"kind": "exposure", "name": name, "settings": settings} if settings else {
            "kind": "fill", "name": name, "settings": {"colour": [0, 1, 0]}}  # fmt: skip
        current = shop.current(plate)
        edit.apply_edit(
            shop, plate, current.revision, "add-layer", {"layer": layer, "after": current.stack.layers[-1].id}
        )
    current = shop.current(plate)
    found = unprintable(shop, current, press_asked(shop, {}))
    by_name = {layer.name: found.layers.get(layer.id) for layer in current.stack.walk()}
    assert found.base < 0.01 and found.finished > 0.99 and by_name["Loud"] > 0.99 and by_name["Calm"] < 0.01


def test_presses_are_kept_and_what_is_none_is_refused(shop):
    kept = keep_press(shop, of_space(DISPLAY_P3))
    assert [one.name for one in list_presses(shop)] == ["Practice press", "Display P3"] and kept.model == "rgb"
    for wrong in (b"", b"no profile", of_space(SRGB)[:200]):
        with pytest.raises(PictureError):
            keep_press(shop, wrong)
    assert len(list(Path(shop.store.folder / "profiles").iterdir())) == 1
