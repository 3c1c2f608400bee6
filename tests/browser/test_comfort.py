"""What makes eight hours comfortable: bars, leaves, several cards, touch, pictures dropped, help, a server that comes
back."""

from __future__ import annotations

import base64

import numpy as np
import pytest
from playwright.sync_api import expect

from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from tests.conftest import png_bytes

pytestmark = pytest.mark.browser
SIZED = """() => new Promise((resolve) => {
    const [canvas, stage] = ['#canvas', '#stage'].map((one) => document.querySelector(one));
    const look = () => (Math.abs(canvas.width - stage.clientWidth * devicePixelRatio) <= 1 ? resolve() : requestAnimationFrame(look));
    look();
})"""
DROP = """([data, how]) => {
    const bytes = Uint8Array.from(atob(data), (c) => c.charCodeAt(0));
    const carried = new DataTransfer();
    carried.items.add(new File([bytes], 'over.png', {type: 'image/png'}));
    const target = how === 'paste' ? document : document.querySelector('#stage');
    const event = how === 'paste' ? new ClipboardEvent('paste', {clipboardData: carried, bubbles: true, cancelable: true})
        : new DragEvent('drop', {dataTransfer: carried, bubbles: true, cancelable: true});
    target.dispatchEvent(event);
    return event.defaultPrevented;
}"""


def layers(bench):
    return bench.current().stack.layers


def names(bench):
    return [layer.name for layer in layers(bench)[1:]]


def card(bench, name):
    return bench.page.locator("#strip .card", has_text=name)


def test_a_quick_press_after_a_copy_means_the_copy(bench):
    page = bench.page
    bench.add("exposure", "closed", leaf="mask")
    page.evaluate("""() => {
        document.querySelector('.acts [data-edit="duplicate-layers"]').click();
        document.querySelector('#mask [data-field="mask.invert"]').click();
    }""")
    bench.settle()
    assert [layer.mask.invert for layer in layers(bench)[1:]] == [False, True]
    expect(page.locator("#says")).to_be_hidden()


def test_the_leaf_says_whether_a_gradient_or_its_mask_is_drawn(bench):
    page = bench.page
    bench.add("gradient")
    page.keyboard.press("3")
    expect(page.locator("#does")).to_contain_text("Draws the gradient")
    bench.drag((0.3, 0.3), (0.6, 0.3))
    assert layers(bench)[1].mask is None and layers(bench)[1].settings["from"][1] == layers(bench)[1].settings["to"][1]
    bench.leaf("mask")
    expect(page.locator("#does")).to_contain_text("Draws a ramp that shows")
    bench.drag((0.3, 0.3), (0.6, 0.3))
    assert [part.kind for part in layers(bench)[1].mask.parts] == ["ramp"]


def test_a_gradient_is_reversed_given_stops_on_the_picture_and_its_middles_moved(bench):
    page = bench.page
    bench.add("gradient")
    page.keyboard.press("3")
    bench.drag((0.2, 0.5), (0.8, 0.5))
    before = layers(bench)[1].settings["stops"]
    page.locator("[data-stops-reverse]").click()
    bench.settle()
    after = layers(bench)[1].settings["stops"]
    assert [stop["alpha"] for stop in after] == [stop["alpha"] for stop in before][::-1]
    page.mouse.dblclick(*bench.on_stage(0.35, 0.5))
    bench.settle()
    stops = layers(bench)[1].settings["stops"]
    assert len(stops) == 3 and stops[1]["at"] == pytest.approx(0.25, abs=0.02)
    page.keyboard.press("1")
    grips = page.locator("#handles .stop-grip")
    expect(grips).to_have_count(3)
    box = grips.nth(0).bounding_box()
    page.mouse.move(box["x"] + 4, box["y"] + 4)
    page.mouse.down()
    page.mouse.move(box["x"] + 24, box["y"] + 4, steps=4)
    page.mouse.up()
    bench.settle()
    assert layers(bench)[1].settings["stops"][0]["middle"] > 0.55


def test_bars_are_dragged_by_their_label_stepped_reset_and_take_sums(bench):
    page = bench.page
    bench.add("exposure")
    number = page.locator('#desk input.number[data-field="settings.stops"]')

    def stops():
        bench.settle()
        return layers(bench)[1].settings["stops"]

    label = page.locator('label[for="f-settings.stops"]').bounding_box()
    page.mouse.move(label["x"] + 10, label["y"] + 10)
    page.mouse.down()
    page.mouse.move(label["x"] + 40, label["y"] + 10, steps=5)
    page.mouse.up()
    dragged = stops()
    assert dragged > 1
    bar = page.locator('[id="f-settings.stops"]')
    bar.focus()
    page.keyboard.press("Shift+ArrowRight")
    assert stops() == pytest.approx(dragged + 0.5)
    page.keyboard.press("Alt+ArrowLeft")
    assert stops() == pytest.approx(dragged + 0.495)
    number.fill("1/4 + 0,5")
    number.press("Enter")
    assert stops() == 0.75
    number.fill("bright")
    number.press("Enter")
    expect(page.locator("#says")).to_contain_text("is no number")
    assert stops() == 0.75
    number.fill("60")
    number.press("Enter")
    expect(page.locator("#says")).to_contain_text("Exposure must be between -20 stops and 20 stops; it was 60 stops")
    box = bar.bounding_box()
    page.mouse.dblclick(box["x"] + 30, box["y"] + box["height"] / 2)
    assert stops() == 0


def test_settings_are_copied_to_another_layer_of_the_kind_and_reset(bench):
    page = bench.page
    bench.add("exposure")
    page.locator('#desk input.number[data-field="settings.stops"]').fill("1.5")
    page.keyboard.press("Enter")
    bench.settle()
    page.locator('[data-edit="copy-settings"]').click()
    bench.add("exposure")
    page.locator('[data-edit="paste-settings"]').click()
    bench.settle()
    assert [layer.settings["stops"] for layer in layers(bench)[1:]] == [1.5, 1.5]
    page.locator('[data-edit="reset"]').first.click()
    bench.settle()
    assert [layer.settings["stops"] for layer in layers(bench)[1:]] == [1.5, 0]


def test_several_cards_are_worked_on_together(bench):
    page = bench.page
    for kind in ("exposure", "levels", "vibrance", "group"):
        bench.add(kind)
        page.locator("#strip .choose").first.click() if kind == "group" else None
        bench.settle()
    card(bench, "Exposure").locator(".name").click()
    card(bench, "Vibrance").locator(".name").click(modifiers=["Shift"])
    expect(page.locator("#several")).to_contain_text("3 cards are chosen")
    bench.leaf("settings")
    bench.opacity_on_desk().fill("40")
    bench.opacity_on_desk().press("Enter")
    bench.settle()
    assert [layer.opacity for layer in layers(bench)[1:4]] == [0.4, 0.4, 0.4]
    page.keyboard.press("Control+]")
    bench.settle()
    assert names(bench) == ["Group", "Exposure", "Levels", "Vibrance"]
    page.keyboard.press("Control+g")
    bench.settle()
    group = layers(bench)[-1]
    assert [layer.name for layer in group.layers] == ["Exposure", "Levels", "Vibrance"]
    card(bench, "Levels").locator(".name").click()
    bench.settle()
    page.keyboard.press("o")
    bench.settle()
    assert names(bench) == ["Group", group.name, "Levels"]
    card(bench, "Exposure").locator(".name").click()
    bench.settle()
    card(bench, "Vibrance").locator(".name").click(modifiers=["Control"])
    page.keyboard.press("Escape")
    expect(page.locator("#several")).to_be_hidden()
    page.keyboard.press("Delete")
    bench.settle()
    assert [layer.name for layer in layers(bench)[2].layers] == ["Vibrance"]


def test_a_card_is_switched_in_the_middle_of_its_corner_found_by_name_and_marked(bench):
    page = bench.page
    for kind in ("exposure", "levels"):
        bench.add(kind)
    box = page.locator("#strip .facet").first.bounding_box()
    assert min(box["width"], box["height"]) >= 24
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    bench.settle()
    assert [layer.visible for layer in layers(bench)[1:]] == [False, True]
    page.locator("#stage").focus()
    page.keyboard.press("/")
    page.keyboard.type("expo")
    page.keyboard.press("Enter")
    bench.settle()
    assert bench.current().chosen == layers(bench)[1].id
    page.locator('[data-edit="mark"]').click()
    bench.settle()
    assert layers(bench)[1].mark == "leaf"


@pytest.mark.parametrize("how", ["drop", "paste"])
def test_a_picture_that_is_dropped_or_pasted_becomes_a_layer(bench, how):
    data = base64.b64encode(png_bytes(np.full((40, 60, 3), 200, np.uint8))).decode()
    assert bench.page.evaluate(DROP, [data, how])
    expect(bench.page.locator('#desk[data-kind="picture"] .layer-name')).to_have_value("over")
    bench.settle()
    assert [layer.kind for layer in layers(bench)] == ["picture", "picture"]


def test_two_fingers_move_zoom_and_turn_the_view_and_paint_nothing(bench):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("2")
    cdp = page.context.new_cdp_session(page)
    cdp.send("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 5})

    def touch(kind, *shares):
        places = [dict(zip("xy", bench.on_stage(*share), strict=True)) | {"id": i} for i, share in enumerate(shares)]
        cdp.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": places})

    zoom = bench.zoom
    touch("touchStart", (0.4, 0.5))
    touch("touchMove", (0.41, 0.5))
    touch("touchStart", (0.41, 0.5), (0.6, 0.5))
    for i in range(1, 9):
        touch("touchMove", (0.41 - 0.02 * i, 0.5 - 0.03 * i), (0.6 + 0.02 * i, 0.5 + 0.03 * i))
    touch("touchEnd")
    bench.settle()
    assert float(bench.zoom.split()[0]) > 1.5 * float(zoom.split()[0])
    expect(page.locator("#turned")).to_contain_text("turned")
    expect(page.locator("#overview")).to_be_visible()
    assert layers(bench)[1].strokes == ()
    touch("touchStart", (0.5, 0.5))
    touch("touchMove", (0.52, 0.5))
    touch("touchEnd")
    bench.settle()
    assert len(layers(bench)[1].strokes) == 1, "one finger paints while no pen is near"


def test_a_stroke_in_a_turned_and_mirrored_view_lies_where_the_hand_was(bench):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("m")
    page.keyboard.press(".")
    page.keyboard.press(".")
    page.keyboard.press("2")
    bench.settle()
    before = bench.spot(0.6, 0.4)
    bench.drag((0.58, 0.4), (0.62, 0.4))
    assert bench.spot(0.6, 0.4)[1] > before[1]
    page.keyboard.press("0")
    bench.settle()
    expect(page.locator("#turned")).to_be_hidden()


@pytest.mark.parametrize("density", [1, 1.5, 2, 3])
def test_pixels_are_sharp_at_every_density(bench, density):
    """At 1:1 every device pixel is a pixel of the picture, bit for bit."""
    page = bench.page
    cdp = page.context.new_cdp_session(page)
    cdp.send(
        "Emulation.setDeviceMetricsOverride",
        {"width": 1280, "height": 800, "deviceScaleFactor": density, "mobile": False},
    )
    page.reload()
    page.wait_for_selector("body[data-ready]")
    bench.settle()
    page.locator('[data-zoom="one"]').click()
    bench.settle()
    page.evaluate(SIZED)
    bench.settle()
    shown = page.evaluate("""() => {
        const canvas = document.querySelector('#canvas');
        const [x, y] = [Math.floor(canvas.width / 2) - 20, Math.floor(canvas.height / 2) - 20];
        const copy = new OffscreenCanvas(40, 40).getContext('2d');
        copy.drawImage(canvas, -x, -y);
        return [...copy.getImageData(0, 0, 40, 40).data];
    }""")
    patch = np.array(shown, np.uint8).reshape(40, 40, 4)[:, :, :3]
    shop_stack = bench.current()
    from glyptic.actions.workshop import Workshop
    from glyptic.store import Store

    store = Store(bench.application.folder / "shelf", looked_at=True)
    shop = Workshop(store)
    whole = render(make_plan(shop_stack.stack, shop.picture), TileCache()).colour
    store.close()
    windows = np.lib.stride_tricks.sliding_window_view(whole[:, :, 1], (40, 40))
    assert (windows[450:530, 700:790] == patch[:, :, 1]).all((-1, -2)).any()


def test_help_is_asked_of_any_control(bench):
    page = bench.page
    bench.add("exposure")
    page.locator('[id="f-settings.stops"]').focus()
    page.keyboard.press("?")
    expect(page.locator("#tip")).to_contain_text("One stop doubles the light.")
    page.keyboard.press("Escape")
    expect(page.locator("#tip")).to_be_hidden()
    page.locator("#stage").focus()
    page.mouse.move(*bench.on_stage(0.5, 0.5))
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()
    expect(page.locator("#keys")).to_contain_text("turn the view left by 15°")


def test_an_edit_is_held_while_the_server_is_gone_and_kept_when_it_is_back(bench):
    page = bench.page
    bench.add("exposure")
    bench.application.kill()
    bench.opacity_on_desk().fill("55")
    bench.opacity_on_desk().press("Enter")
    expect(page.locator("#says")).to_contain_text("held here")
    expect(page.locator("#kept")).to_have_text("not kept yet")
    bench.application.start()
    expect(page.locator("#kept")).to_contain_text("ago", timeout=30_000)
    bench.settle()
    assert layers(bench)[1].opacity == 0.55


def test_what_takes_long_is_stopped_with_escape_and_nothing_is_changed(bench):
    page = bench.page
    bench.add("exposure", leaf="mask")
    before = bench.current().revision
    page.route("**/areas/region", lambda route: None)
    page.locator('[data-way="backdrop"]').click()
    expect(page.locator("#waiting")).to_contain_text("Looking for edges")
    page.locator("#stage").focus()
    page.keyboard.press("Escape")
    expect(page.locator("#waiting")).to_be_hidden()
    page.unroute("**/areas/region")
    bench.settle()
    assert bench.current().revision == before


def test_one_escape_closes_each_panel_and_the_focus_comes_back(bench):
    page = bench.page
    for opener, panel in (
        ('[data-opens="add"]', "#add"),
        ('[data-opens="export"]', "#export"),
        ("#pressure summary", "#pressure[open]"),
    ):
        if panel.startswith("#pressure"):
            bench.add("grey")
            page.keyboard.press("2")
        page.locator(opener).click()
        expect(page.locator(panel)).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator(panel)).to_have_count(0) if "open" in panel else expect(page.locator(panel)).to_be_hidden()
        assert page.evaluate("document.activeElement !== document.body")


def test_first_steps_watch_what_is_done(bench):
    page = bench.page
    page.goto(f"{page.url}?first-steps")
    page.wait_for_selector("body[data-ready]")
    bench.settle()
    step = page.locator("#guide [data-step]:visible h2")
    expect(step).to_contain_text("Look closer")
    page.keyboard.press("g")
    expect(step).to_contain_text("Add a layer")
    bench.add("curves", "closed")
    expect(step).to_contain_text("Bend the curve")
    page.locator("#curve").focus()
    for key in ("Enter", "Shift+ArrowUp"):
        page.keyboard.press(key)
    expect(step).to_contain_text("Paint it in")
    page.locator("#stage").focus()
    page.keyboard.press("2")
    bench.drag((0.5, 0.5), (0.55, 0.5))
    expect(step).to_contain_text("Compare")
    page.keyboard.down("h")
    page.keyboard.up("h")
    expect(step).to_contain_text("Nothing is ever lost")
    page.keyboard.press("Control+z")
    expect(page.locator("#guide")).to_be_hidden()
