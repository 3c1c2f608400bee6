"""The frame by hand: cropped, levelled by a line, turned, given a border; painted through, exported, undone."""

import math
import subprocess
import sys

import numpy as np
import pytest
from playwright.sync_api import expect

from glyptic.document.sources import with_sources
from glyptic.document.writing import write_stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import read_picture
from tests.browser.conftest import put_on_the_shelf
from tests.browser.test_bench import export

pytestmark = pytest.mark.browser

WHOLE = (1500, 1000)


def frame_in_hand(bench):
    bench.page.locator("#stage").focus()
    bench.page.keyboard.press("8")
    bench.settle()
    expect(bench.page.locator('#desk[data-kind="frame"]')).to_be_visible()


def at(bench, x, y):
    """The share of the stage at which a place of the whole picture is shown in fit."""
    stage = bench.page.locator("#stage").bounding_box()
    scale = min((stage["width"] - 12) / WHOLE[0], (stage["height"] - 12) / WHOLE[1])
    left, top = (stage["width"] - scale * WHOLE[0]) / 2, (stage["height"] - scale * WHOLE[1]) / 2
    return (left + x * scale) / stage["width"], (top + y * scale) / stage["height"]


def frame_of(bench):
    return bench.current().stack.frame


def test_a_crop_is_dragged_moved_turned_levelled_and_undone(bench):
    page = bench.page
    frame_in_hand(bench)
    assert frame_of(bench).size == WHOLE
    bench.drag(at(bench, 0, 0), at(bench, 300, 200))
    width, height = frame_of(bench).size
    assert (width, height) == (pytest.approx(1200, abs=3), pytest.approx(800, abs=3))
    assert all(value == round(value) for corner in frame_of(bench).corners for value in corner)
    bench.drag(at(bench, 900, 600), at(bench, 500, 300))
    assert frame_of(bench).size == (width, height)
    assert frame_of(bench).corners[0] == (0, 0), "it moves as far as the picture goes"
    page.locator('[data-frame-tool="level"]').click()
    bench.drag(at(bench, 300, 300), at(bench, 700, 320))
    (x0, y0), (x1, y1), _, _ = frame_of(bench).corners
    assert math.degrees(math.atan2(y1 - y0, x1 - x0)) == pytest.approx(math.degrees(math.atan2(20, 400)), abs=0.2)
    assert all(-1e-3 <= x <= 1500.001 and -1e-3 <= y <= 1000.001 for x, y in frame_of(bench).corners)
    page.keyboard.press("Control+z")
    bench.settle()
    assert frame_of(bench).corners[0] == (0, 0)
    page.keyboard.press("Enter")
    bench.settle()
    expect(page.locator("#framing path")).to_have_count(0)
    size = page.evaluate("() => document.querySelector('#frame-turn').value")
    assert float(size) == 0


def test_numbers_ratio_quarters_mirror_border_and_the_facet(bench):
    page = bench.page
    frame_in_hand(bench)
    page.locator("#frame-ratio").select_option("4:3")
    bench.settle()
    assert frame_of(bench).size == (1333, 1000)
    page.locator("#frame-upright").click()
    bench.settle()
    assert frame_of(bench).size == (750, 1000)
    page.locator('[data-frame="quarter"][data-by="1"]').click()
    bench.settle()
    assert frame_of(bench).size == (1000, 750)
    page.locator('[data-frame="mirror"]').click()
    bench.settle()
    page.locator("#frame-border-all").fill("4 %")
    page.locator("#frame-border-all").press("Enter")
    bench.settle()
    assert frame_of(bench).border == (30, 30, 30, 30)
    bottom = page.locator('#desk input.number[data-field="border.bottom"]')
    bottom.fill("80+10")
    bottom.press("Enter")
    bench.settle()
    assert frame_of(bench).sheet == (1060, 870)
    page.locator('[data-show="@frame"]').click()
    bench.settle()
    assert not frame_of(bench).enabled
    page.locator("[data-frame-remove]").click()
    bench.settle()
    assert frame_of(bench) is None


def test_a_stroke_lies_under_the_pointer_through_a_turned_frame_and_stays_when_it_changes(bench):
    page = bench.page
    bench.add("exposure", start="closed", leaf="settings")
    stops = page.locator('#desk input.number[data-field="settings.stops"]')
    stops.fill("4")
    stops.press("Enter")
    bench.settle()
    frame_in_hand(bench)
    page.locator("#frame-turn").fill("12")
    page.locator("#frame-turn").press("Enter")
    bench.settle()
    page.locator("#card-layer-1 .choose").click()
    bench.settle()
    page.locator("#stage").focus()
    page.keyboard.press("2")
    page.locator('[data-dial-number="size"]').fill("60")
    page.locator('[data-dial-number="size"]').press("Enter")
    page.locator('[data-dial-number="hardness"]').fill("100")
    page.locator('[data-dial-number="hardness"]').press("Enter")
    page.locator('[data-dial-number="flow"]').fill("100")
    page.locator('[data-dial-number="flow"]').press("Enter")
    before = [bench.spot(x, 0.4) for x in (0.4, 0.5, 0.6, 0.75)]
    bench.drag((0.4, 0.4), (0.6, 0.4))
    after = [bench.spot(x, 0.4) for x in (0.4, 0.5, 0.6, 0.75)]
    assert all(sum(new) > sum(old) + 60 for old, new in zip(before[:3], after[:3], strict=True))
    assert after[3] == pytest.approx(before[3], abs=8), "nothing but what comes to rest there"
    stroke = bench.current().stack.layers[1].mask.parts[0].strokes[0]
    frame = frame_of(bench)
    line = [frame.onto.inverse.at(x, y) for x, y, _ in stroke.points]
    assert max(y for _, y in line) - min(y for _, y in line) < 1.5, "level on the sheet, not in the picture"
    frame_in_hand(bench)
    page.locator('[data-frame="whole"]').click()
    bench.settle()
    assert bench.current().stack.layers[1].mask.parts[0].strokes[0] == stroke


def test_a_framed_export_is_what_the_command_renders(bench, photograph, tmp_path):
    page = bench.page
    frame_in_hand(bench)
    page.locator("#frame-turn").fill("-3")
    page.locator("#frame-turn").press("Enter")
    bench.settle()
    page.locator('[data-frame-border="heavier"]').click()
    bench.settle()
    page.locator("#stage").focus()
    page.keyboard.press("Enter")
    bench.add("vignette")
    stack = bench.current().stack
    assert [layer.kind for layer in stack.sheet_layers] == ["vignette"], "after the frame's card"
    page.locator('#desk input.number[data-field="settings.stops"]').fill("-2")
    page.locator('#desk input.number[data-field="settings.stops"]').press("Enter")
    bench.settle()
    decoded = export(bench, "png", "16")
    (tmp_path / "base.png").write_bytes(photograph.read_bytes())
    plain = with_sources(bench.current().stack, lambda asset: "base.png")
    (tmp_path / "stack.json").write_text(write_stack(plain, VOCABULARY))
    command = [
        sys.executable,
        "-m",
        "glyptic.cli.main",
        "render",
        tmp_path / "stack.json",
        tmp_path / "out.png",
        "--depth",
        "16",
    ]
    subprocess.run(command, check=True)
    rendered = read_picture((tmp_path / "out.png").read_bytes())
    assert np.array_equal(decoded.codes, rendered.codes)
    assert decoded.codes.shape[:0:-1] == frame_of(bench).sheet
    (tmp_path / "whole.png").unlink(missing_ok=True)
    subprocess.run([*command[:-3], tmp_path / "whole.png", "--no-frame"], check=True)
    assert read_picture((tmp_path / "whole.png").read_bytes()).codes.shape == (3, 1000, 1500)


def test_cards_are_dragged_across_the_frame_and_copied_to_another_plate(bench, application, photograph):
    page = bench.page
    bench.add("vignette")
    frame_in_hand(bench)
    page.locator("#frame-border-all").fill("50")
    page.locator("#frame-border-all").press("Enter")
    bench.settle()
    centre = bench.current().stack.layers[1].settings["centre"]
    page.locator("#strip .card-slot", has_text="Vignette").locator(".card").drag_to(
        page.locator("#strip .sheet-row"), source_position={"x": 20, "y": 30}, target_position={"x": 20, "y": 60}
    )
    bench.settle()
    [moved] = bench.current().stack.sheet_layers
    assert moved.settings["centre"] == pytest.approx([value + 50 for value in centre])
    page.locator("#strip .card-slot", has_text="Vignette").locator(".choose").click()
    bench.settle()
    page.locator("#stage").focus()
    page.keyboard.press("Control+c")
    expect(page.locator("#says")).to_contain_text("copied")
    page.goto(f"{application.url}/plates/{put_on_the_shelf(page, application, photograph)}/")
    page.wait_for_selector("body[data-ready]")
    bench.settle()
    page.locator("[data-paste-layers]").click()
    expect(page.locator('#desk[data-kind="vignette"]')).to_be_visible()
    bench.settle()
    pasted = bench.current().stack.layers[1].settings["centre"]
    assert pasted == pytest.approx(
        [moved.settings["centre"][0] * 1500 / 1600, moved.settings["centre"][1] * 1000 / 1100]
    )


def test_pictures_are_merged_taken_from_plates_and_dragged_by_their_handles(bench, application, photograph):
    page = bench.page
    bench.add("exposure")
    page.locator('#desk input.number[data-field="settings.stops"]').fill("1")
    page.locator('#desk input.number[data-field="settings.stops"]').press("Enter")
    bench.settle()
    page.locator("#stage").focus()
    page.keyboard.press("a")
    page.locator('[data-add="merged"]').click()
    expect(page.locator("#desk .made-of")).to_contain_text("Made of everything below")
    bench.settle()
    assert page.locator("[data-renew]").is_disabled()
    page.locator('[data-show="layer-1"]').click()
    expect(page.locator("#desk .made-of")).to_contain_text("has changed since")
    page.locator("[data-renew]").click()
    expect(page.locator("#desk .made-of")).not_to_contain_text("has changed since")
    bench.settle()
    page.locator('[data-lay="fit"]').click()
    bench.settle()
    place = bench.current().stack.layers[2].place
    grip = page.locator("#handles .grip").first.bounding_box()
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(grip["x"] + 60, grip["y"] + 30, steps=5)
    page.mouse.up()
    bench.settle()
    moved = bench.current().stack.layers[2].place
    assert moved.x > place.x + 50 and moved.y > place.y + 20 and moved.scale == place.scale
    page.locator('[data-lay="corners"]').click()
    bench.settle()
    page.locator("[data-lay-corner]").first.fill("-80")
    page.locator("[data-lay-corner]").first.press("Enter")
    bench.settle()
    assert bench.current().stack.layers[2].place.corners[0][0] == -80
    put_on_the_shelf(page, application, photograph)
    page.locator("#stage").focus()
    page.keyboard.press("a")
    page.locator('[data-add="plate"]').click()
    page.locator('[data-take-plate][data-finished="yes"]').first.click()
    expect(page.locator("#strip .card-slot")).to_have_count(4)
    bench.settle()
    page.locator("[data-register]").click()
    expect(page.locator("#says")).to_contain_text("match")
