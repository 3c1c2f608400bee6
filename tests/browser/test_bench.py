"""The five-minute path as a person takes it, in a real browser against the real application."""

from __future__ import annotations

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from glyptic.actions.workshop import Workshop
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.formats import read_picture
from glyptic.store import Store

pytestmark = pytest.mark.browser


def expected_pixels(bench, depth=8):
    store = Store(bench.application.folder / "shelf", looked_at=True)
    shop = Workshop(store)
    stack = shop.current(bench.plate).stack
    pixels = render(make_plan(stack, shop.picture), TileCache(), depth=depth).colour
    store.close()
    return pixels


def export(bench, file_format, depth="8"):
    page = bench.page
    page.locator('[data-opens="export"]').click()
    page.locator("#export-format").select_option(file_format)
    page.locator("#export-depth").select_option(depth)
    page.get_by_role("button", name="Write the file").click()
    link = page.locator("#export-job a[data-ready]")
    expect(link).to_be_visible(timeout=60_000)
    with page.expect_download() as caught:
        link.click()
    page.locator("#export [data-close]").click()
    return read_picture(caught.value.path().read_bytes())


def test_the_five_minute_path(bench):
    page = bench.page
    before = bench.spot(0.5, 0.5)
    bench.add("curves", "closed")
    bench.leaf("settings")
    curve = page.locator("#curve").bounding_box()
    page.mouse.move(curve["x"] + 138, curve["y"] + 84)
    page.mouse.down()
    page.mouse.move(curve["x"] + 130, curve["y"] + 40, steps=5)
    page.mouse.up()
    bench.settle()
    points = bench.current().stack.layers[1].settings["points"]["rgb"]
    assert len(points) == 3 and points[1][1] > points[1][0] + 0.1
    assert bench.spot(0.5, 0.5) == before

    page.keyboard.press("2")
    expect(page.locator("#does")).to_contain_text("Shows 100 % on the mask of ‘Curves’")
    bench.drag((0.45, 0.5), (0.55, 0.5))
    lifted = bench.spot(0.5, 0.5)
    assert lifted[1] > before[1] + 8
    expect(page.locator("#says-layer")).to_contain_text("Lightens")

    bench.add("grey")
    expect(page.locator("#does")).to_contain_text("Lightens 10 % on ‘Grey layer’")
    bench.drag((0.48, 0.45), (0.52, 0.55))
    dodged = bench.spot(0.5, 0.5)
    assert dodged[1] > lifted[1]

    page.keyboard.press("Control+z")
    bench.settle()
    assert bench.spot(0.5, 0.5) == lifted
    page.keyboard.press("Control+Shift+z")
    bench.settle()
    assert bench.spot(0.5, 0.5) == dodged

    page.keyboard.down("h")
    bench.settle()
    assert bench.spot(0.5, 0.5) == before
    page.keyboard.up("h")
    bench.settle()
    assert bench.spot(0.5, 0.5) == dodged

    decoded = export(bench, "png", "16")
    assert np.array_equal(np.moveaxis(decoded.codes, 0, 2), expected_pixels(bench, 16))


def test_a_pen_paints_with_its_pressure(bench):
    bench.add("grey")
    bench.page.keyboard.press("2")
    cdp = bench.page.context.new_cdp_session(bench.page)

    def pen(kind, share, force):
        x, y = bench.on_stage(0.3 + 0.4 * share, 0.5)
        cdp.send("Input.dispatchMouseEvent", {
            "type": kind, "x": x, "y": y, "button": "left", "buttons": 1, "clickCount": 1, "pointerType": "pen", "force": force,
        })  # fmt: skip

    pen("mousePressed", 0, 0.1)
    for i in range(1, 30):
        pen("mouseMoved", i / 30, 0.1 + 0.8 * i / 30)
    pen("mouseReleased", 1, 0)
    bench.page.wait_for_selector("#history [data-do=undo]:not(:disabled)")
    bench.settle()
    stroke = bench.current().stack.layers[1].strokes[0]
    pressures = [pressure for _, _, pressure in stroke.points]
    assert stroke.pressure.flow and not stroke.pressure.size
    assert len(pressures) > 10 and pressures[0] < 0.2 and max(pressures) > 0.7
    light, firm = bench.spot(0.35, 0.5), bench.spot(0.62, 0.5)
    bench.page.keyboard.press("Control+z")
    bench.settle()
    assert firm[1] - bench.spot(0.62, 0.5)[1] > light[1] - bench.spot(0.35, 0.5)[1]


def test_what_is_under_the_stroke_is_what_is_kept(bench):
    bench.add("exposure", "closed")
    slider = bench.page.locator('#desk input.number[data-field="settings.stops"]')
    slider.fill("1")
    slider.press("Enter")
    bench.settle()
    bench.page.keyboard.press("2")
    bench.page.mouse.move(*bench.on_stage(0.4, 0.4))
    bench.page.mouse.down()
    bench.page.mouse.move(*bench.on_stage(0.6, 0.6), steps=20)
    bench.drawn()
    drawing = [bench.spot(0.4 + 0.02 * i, 0.4 + 0.02 * i) for i in range(10)]
    bench.page.mouse.up()
    bench.page.wait_for_selector("#mask .part", state="attached")
    bench.settle()
    assert [bench.spot(0.4 + 0.02 * i, 0.4 + 0.02 * i) for i in range(10)] == drawing


def test_strokes_survive_a_killed_server_and_one_in_the_hand_is_sent_again(bench):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("2")
    bench.drag((0.4, 0.4), (0.5, 0.5))
    page.mouse.move(*bench.on_stage(0.5, 0.4))
    page.mouse.down()
    page.mouse.move(*bench.on_stage(0.6, 0.5), steps=6)
    bench.application.kill()
    page.mouse.move(*bench.on_stage(0.6, 0.6), steps=6)
    page.mouse.up()
    expect(page.locator("#says")).to_contain_text("held here")
    bench.application.start()
    expect(page.locator("#kept")).to_contain_text("kept", timeout=20_000)
    expect(page.locator("#kept")).not_to_have_class("quiet waiting", timeout=20_000)
    bench.settle()
    assert len(bench.current().stack.layers[1].strokes) == 2


def test_a_drag_is_live_and_one_step(bench):
    bench.add("exposure")
    before, revision = bench.spot(0.5, 0.5), bench.current().revision
    bar = bench.page.locator('#desk input[type="range"][data-field="settings.stops"]').bounding_box()
    middle = bar["y"] + bar["height"] / 2
    bench.page.mouse.move(bar["x"] + bar["width"] / 2, middle)
    bench.page.mouse.down()
    bench.page.mouse.move(bar["x"] + bar["width"] * 0.62, middle, steps=8)
    bench.settle()
    assert bench.spot(0.5, 0.5)[1] > before[1] + 10
    assert bench.current().revision == revision
    bench.page.mouse.up()
    bench.settle()
    assert bench.current().revision == revision + 1
    assert bench.current().stack.layers[1].settings["stops"] > 0.5


def test_the_strip_switches_names_weakens_reorders_duplicates_and_removes(bench):
    page = bench.page
    bench.add("exposure")
    page.locator("#desk .layer-name").fill("A light with a name that is longer than any card could ever show")
    page.locator("#desk .layer-name").press("Enter")
    bench.settle()
    bench.add("levels")
    names = page.locator("#strip .name")
    expect(names).to_have_text(["Base", re.compile("A light"), "Levels"])
    page.locator("#stage").focus()
    page.keyboard.press("Control+[")
    expect(names).to_have_text(["Base", "Levels", re.compile("A light")])
    page.keyboard.press("q")
    expect(page.locator("#strip .facet").first).to_have_attribute("aria-pressed", "false")
    bench.opacity_on_desk().fill("35")
    bench.opacity_on_desk().press("Enter")
    expect(page.locator("#strip .share").first).to_have_text("35 %")
    page.locator('.acts [data-edit="duplicate-layers"]').click()
    expect(names).to_have_text(["Base", "Levels", "Levels 2", re.compile("A light")])
    source, target = page.locator("#strip .card-slot").nth(3), page.locator("#strip .card-slot").nth(1)
    source.drag_to(target, target_position={"x": 10, "y": 40})
    expect(names).to_have_text(["Base", re.compile("A light"), "Levels", "Levels 2"])
    bench.settle()
    page.locator("#stage").focus()
    page.keyboard.press("Delete")
    expect(names).to_have_text(["Base", "Levels", "Levels 2"])


def test_a_ramp_and_an_oval_are_drawn_on_the_picture(bench):
    page = bench.page
    bench.add("exposure")
    page.keyboard.press("3")
    bench.drag((0.3, 0.3), (0.6, 0.6))
    expect(page.locator(".part-name")).to_have_text(["Ramp"])
    page.keyboard.press("s")
    page.keyboard.press("4")
    expect(page.locator("#does")).to_contain_text("Draws an oval that hides")
    bench.drag((0.5, 0.5), (0.6, 0.65))
    expect(page.locator(".part-name")).to_have_text(["Ramp", "Oval"])
    ramp, oval = bench.current().stack.layers[1].mask.parts
    assert (ramp.op, oval.op) == ("show", "hide") and min(oval.settings["radii"]) > 50
    page.locator('.views [data-view="mask-alone"]').click()
    bench.settle()
    assert bench.spot(0.5, 0.5)[1] < 40 and bench.spot(0.3, 0.3)[1] > 150


def test_a_mask_is_dragged_from_card_to_card(bench):
    page = bench.page
    bench.add("exposure", "closed")
    bench.add("levels")
    cards = page.locator("#strip .card")
    cards.nth(1).hover()
    page.locator("#strip .mask-grip").drag_to(cards.nth(2))
    bench.settle()
    exposure, levels = bench.current().stack.layers[1:]
    assert exposure.mask is None and levels.mask.start == "closed"
    expect(page.locator("#desk .layer-name")).to_have_value("Levels")


def test_zooming_keeps_the_place_under_the_pointer_and_shows_true_pixels(bench, photograph):
    page = bench.page
    page.mouse.move(*bench.on_stage(0.6, 0.4))
    before = bench.spot(0.6, 0.4)
    for _ in range(12):
        page.mouse.wheel(0, -100)
    bench.settle()
    assert "%" in bench.zoom
    assert np.abs(np.array(bench.spot(0.6, 0.4)) - before).max() <= 4
    page.keyboard.press("g")
    bench.settle()
    assert bench.zoom == "100 %"
    pixels = page.evaluate("""() => {
        const canvas = document.querySelector('#canvas');
        const copy = new OffscreenCanvas(40, 40).getContext('2d');
        copy.drawImage(canvas, -300, -200);
        return [...copy.getImageData(0, 0, 40, 40).data];
    }""")
    shown = np.array(pixels, np.uint8).reshape(40, 40, 4)[:, :, :3].astype(int)
    whole = (np.moveaxis(read_picture(photograph.read_bytes()).codes, 0, 2) // 257).astype(int)
    assert stands_in(whole, shown)
    page.keyboard.press("f")
    bench.settle()
    expect(page.locator('[data-zoom="fit"]')).to_have_attribute("aria-pressed", "true")


def stands_in(whole, part):
    """Whether a picture holds a smaller one, pixel for pixel."""
    h, w = part.shape[:2]
    rows, columns = np.indices((whole.shape[0] - h + 1, whole.shape[1] - w + 1)).reshape(2, -1)
    for i, j in np.ndindex(h, w):
        same = (whole[rows + i, columns + j] == part[i, j]).all(-1)
        rows, columns = rows[same], columns[same]
    return len(rows) > 0


def test_two_tabs_see_one_state(bench):
    other = bench.page.context.new_page()
    other.goto(bench.page.url)
    other.wait_for_selector("body[data-ready]")
    bench.add("exposure")
    other.keyboard.press("a")
    other.locator('[data-add="levels"]').click()
    expect(other.locator("#says")).to_contain_text("nothing was lost")
    expect(other.locator("#strip .name")).to_have_text(["Base", "Exposure"])
    other.close()


def test_the_log_leads_back_and_keeps_branches(bench):
    page = bench.page
    bench.add("exposure")
    bench.add("levels")
    page.locator('[data-opens="log"]').click()
    expect(page.locator("#log-entries li")).to_have_count(3)
    page.locator("#log-entries li").nth(1).locator("[data-go-to]").click()
    expect(page.locator("#strip .name")).to_have_text(["Base", "Exposure"])
    bench.settle()
    page.locator("#log [data-close]").click()
    bench.add("fill", "closed")
    page.locator('[data-opens="log"]').click()
    expect(page.locator("#log-entries .entry-aside")).to_have_count(1)


def test_everything_on_the_curve_works_by_keyboard(bench):
    bench.add("curves")
    page = bench.page
    page.locator("#curve").focus()
    page.keyboard.press("Enter")
    for _ in range(4):
        page.keyboard.press("Shift+ArrowUp")
        bench.settle()
    [(_, _), (x, y), (_, _)] = bench.current().stack.layers[1].settings["points"]["rgb"]
    assert (x, y) == (0.5, pytest.approx(0.7))
    page.locator("#point-out").fill("55")
    page.locator("#point-out").press("Enter")
    bench.settle()
    assert bench.current().stack.layers[1].settings["points"]["rgb"][1] == (0.5, 0.55)
    page.locator("#curve").focus()
    page.keyboard.press("Delete")
    bench.settle()
    assert len(bench.current().stack.layers[1].settings["points"]["rgb"]) == 2


def test_a_curve_point_dragged_off_is_removed(bench):
    bench.add("curves")
    curve = bench.page.locator("#curve").bounding_box()
    bench.page.mouse.click(curve["x"] + 100, curve["y"] + 60)
    bench.settle()
    assert len(bench.current().stack.layers[1].settings["points"]["rgb"]) == 3
    bench.page.mouse.move(curve["x"] + 100, curve["y"] + 60)
    bench.page.mouse.down()
    bench.page.mouse.move(curve["x"] + 100, curve["y"] - 80, steps=4)
    bench.page.mouse.up()
    bench.settle()
    assert len(bench.current().stack.layers[1].settings["points"]["rgb"]) == 2


def test_a_file_that_is_no_picture_gets_a_sentence(page, application, tmp_path):
    page.goto(application.url)
    count = page.locator(".plate-card").count()
    wrong = tmp_path / "letter.jpg"
    wrong.write_text("Dear Sir or Madam")
    page.set_input_files("#open-files", wrong)
    expect(page.locator("#uploads .problem")).to_contain_text("no JPEG, PNG, raw, TIFF")
    assert page.locator(".plate-card").count() == count


def test_the_shelf_renames_duplicates_removes_and_puts_back(page, application, photograph):
    page.goto(application.url)
    page.fill("#new-shoot input", "By itself")
    page.keyboard.press("Enter")
    expect(page.locator(".shoot-name")).to_have_value("By itself")
    count = 0
    page.set_input_files("#open-files", photograph)
    expect(page.locator(".plate-card")).to_have_count(count + 1)
    first = page.locator(".plate-card").first
    first.locator(".name").fill("Renamed here")
    first.locator(".name").press("Enter")
    expect(page.locator('.plate-card .name[value="Renamed here"]')).to_be_visible()
    page.locator(".plate-card").first.get_by_role("button", name="Duplicate").click()
    expect(page.locator('.plate-card .name[value="Renamed here copy"]')).to_be_visible()
    page.locator(".plate-card").first.get_by_role("button", name="Remove").click()
    expect(page.locator(".plate-card")).to_have_count(count + 1)
    page.locator(".bin summary").click()
    page.locator(".bin li").first.get_by_role("button", name="Put back").click()
    expect(page.locator(".plate-card")).to_have_count(count + 2)
