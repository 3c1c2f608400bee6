"""Masks as a retoucher makes, judges and mends them, on a demo plate and with a pen."""

from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import expect

import glyptic.demo
from glyptic.actions.areas import mask_codes
from glyptic.actions.workshop import Workshop
from glyptic.store import Store

pytestmark = pytest.mark.browser

VASES = Path(glyptic.demo.__file__).parent / "plates" / "vase-trio.jpg"
BACKDROP, VASE, JAR, BOWL = (0.1, 0.5), (0.37, 0.5), (0.62, 0.5), (0.49, 0.8)
"""Places on the stage."""


class Pen:
    """A tablet's pen in front of the page."""

    def __init__(self, bench) -> None:
        self.bench = bench
        self.session = bench.page.context.new_cdp_session(bench.page)

    def event(self, kind, place, force=0.5, **more):
        x, y = self.bench.on_stage(*place)
        self.session.send("Input.dispatchMouseEvent", {
            "type": kind, "x": x, "y": y, "button": "left", "buttons": 0 if kind == "mouseReleased" else 1,
            "clickCount": 1, "pointerType": "pen", "force": force, **more,
        })  # fmt: skip

    def stroke(self, *places, force=0.5, steps=14, **more):
        self.event("mousePressed", places[0], force, **more)
        for start, end in zip(places, places[1:], strict=False):
            for i in range(1, steps + 1):
                share = i / steps
                self.event(
                    "mouseMoved", tuple(a + (b - a) * share for a, b in zip(start, end, strict=True)), force, **more
                )
        self.event("mouseReleased", places[-1], 0, **more)
        self.bench.settle()


@pytest.fixture
def photograph():
    """In place of the soft one: a demo plate."""
    return VASES


@pytest.fixture
def pen(bench):
    return Pen(bench)


def number(bench, field, value):
    box = bench.page.locator(f'#desk input.number[data-field="{field}"]')
    box.fill(str(value))
    box.press("Enter")
    bench.settle()


def layer(bench, at=-1):
    return bench.current().stack.layers[at]


def codes(bench, at=-1):
    """The mask of a layer as the data folder has it."""
    store = Store(bench.application.folder / "shelf", looked_at=True)
    try:
        shop = Workshop(store)
        stack = shop.current(bench.plate).stack
        return mask_codes(shop, stack, stack.layers[at])
    finally:
        store.close()


def see(bench, view):
    bench.page.click(f'[data-view="{view}"]')
    bench.settle()


def test_even_the_backdrop_bring_the_highlight_back_shape_the_bowl(bench, pen):
    page = bench.page
    before = {place: bench.spot(*place) for place in (BACKDROP, VASE, JAR)}
    bench.add("exposure")
    bench.way("backdrop")
    page.wait_for_selector("#mask .part")
    bench.settle()
    bench.leaf("settings")
    number(bench, "settings.stops", 0.8)
    assert bench.spot(*BACKDROP)[1] > before[BACKDROP][1] + 10
    assert bench.spot(*VASE) == before[VASE] and bench.spot(*JAR) == before[JAR]
    page.keyboard.press("3")
    page.click('#sides [data-side="0"]')
    bench.drag((0.95, 0.5), (0.3, 0.5))
    assert [part.kind for part in layer(bench).mask.parts] == ["region", "ramp"] and layer(bench).mask.parts[
        1
    ].op == "hide"

    bench.add("levels")
    bench.way("tone")
    bench.settle()
    page.click('#mask [data-window-preset]:has-text("Highlights")')
    bench.settle()
    bench.leaf("settings")
    number(bench, "settings.rgb.out_white", 90)
    [part] = layer(bench).mask.parts
    assert part.settings["low"] == 0.82 and part.settings["high"] == 1

    bench.add("grey")
    page.keyboard.press("2")
    dark = bench.spot(*BOWL)
    pen.stroke((0.44, 0.78), (0.54, 0.8), force=0.9)
    pen.stroke((0.44, 0.8), (0.54, 0.82), force=0.9)
    assert sum(bench.spot(*BOWL)) > sum(dark)
    assert len(layer(bench).strokes) == 2 and layer(bench).strokes[0].pressure.flow


def test_a_region_grows_and_is_taken_away_from_by_scribbles(bench, pen):
    page = bench.page
    bench.add("exposure")
    page.keyboard.press("6")
    expect(page.locator("#does")).to_contain_text("Scribble on what belongs")
    pen.stroke((0.35, 0.35), (0.36, 0.7))
    bench.leaf("mask")
    page.wait_for_selector("#mask .part")
    bench.settle()
    found = codes(bench)
    assert 0.05 < (found > 128).mean() < 0.3 and len(layer(bench).mask.parts[0].settings["seeds"]) == 1
    pen.stroke(BACKDROP, (0.12, 0.6))
    more = codes(bench)
    assert (more > 128).mean() > 0.5
    page.keyboard.down("Alt")
    bench.drag((0.35, 0.5), (0.36, 0.6))
    page.keyboard.up("Alt")
    assert len(layer(bench).mask.parts) == 1 and len(layer(bench).mask.parts[0].settings["seeds"]) == 3
    page.keyboard.press("Control+z")
    bench.settle()
    assert np.array_equal(codes(bench), more)
    page.locator("#stage").focus()
    for _ in range(6):
        page.keyboard.press("ArrowLeft")
    page.keyboard.press("Enter")
    bench.settle()
    assert len(layer(bench).mask.parts[0].settings["seeds"][-1]["points"]) == 1
    page.locator("#mask .part summary").first.click()
    page.locator("[data-region-edge]").fill("60")
    bench.settle()
    assert layer(bench).mask.parts[0].settings["edge"] == 0.6


def test_a_gappy_mask_is_found_zoomed_to_and_mended_by_parts_that_can_go_again(bench, pen):
    page = bench.page
    bench.add("exposure", "closed")
    page.keyboard.press("2")
    for name, value in (("size", 260), ("hardness", 100), ("opacity", 100), ("flow", 100)):
        page.locator(f'[data-dial-number="{name}"]').fill(str(value))
        page.locator(f'[data-dial-number="{name}"]').press("Enter")
    pen.stroke((0.4, 0.5), (0.6, 0.5), force=1)
    page.locator('[data-dial-number="size"]').fill("24")
    page.locator('[data-dial-number="size"]').press("Enter")
    pen.stroke((0.2, 0.2), (0.201, 0.2), force=1, steps=2)
    page.keyboard.press("s")
    for x in (0.45, 0.55):
        pen.stroke((x, 0.5), (x + 0.001, 0.5), force=1, steps=2)
    bench.leaf("mask")
    page.locator("#mask-faults summary").click()
    page.click('[data-find="gaps"]')
    rows = page.locator("#fault-list li")
    expect(rows).to_have_count(3)
    expect(page.locator("#marks .fault:not(.under)")).to_have_count(3)
    rows.first.locator("button").first.click()
    assert bench.zoom.startswith("400")
    page.click('#fault-list button:has-text("Close all 2")')
    expect(rows).to_have_count(1)
    rows.locator('button:has-text("Drop")').click()
    expect(page.locator("#fault-list")).to_contain_text("No gaps and no specks")
    bench.settle()
    parts = layer(bench).mask.parts
    assert [(part.kind, part.op, part.name) for part in parts[1:]] == [
        ("raster", "show", "Gaps closed"),
        ("raster", "hide", "Spill dropped"),
    ]
    page.locator("#mask .part .lamp").nth(1).click()
    bench.settle()
    page.click('[data-find="gaps"]')
    expect(rows).to_have_count(2)


def test_a_halo_is_found_and_snapped_away(bench):
    page = bench.page
    bench.add("exposure")
    number(bench, "settings.stops", 0.7)
    bench.way("backdrop")
    page.wait_for_selector("#mask .part")
    bench.settle()
    number(bench, "mask.grow", 7)
    page.locator("#mask-faults summary").click()
    page.click('[data-find="halos"]')
    expect(page.locator("#fault-list li").first).to_contain_text("bleeds over")
    number(bench, "mask.grow", 0)
    page.click('[data-find="halos"]')
    expect(page.locator("#fault-list li:has-text('bleeds over')")).to_have_count(0)
    page.fill("#snap-width", "12")
    page.click("[data-snap]")
    page.wait_for_selector('#mask .part:has-text("Snapped within 12 px")')
    bench.settle()
    assert layer(bench).mask.parts[-1].op == "replace"


def test_strokes_made_yesterday_are_weakened_by_name_and_number(bench, pen):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("2")
    for y in (0.3, 0.4, 0.5, 0.6):
        pen.stroke((0.3, y), (0.6, y), force=0.8)
    bench.application.kill()
    bench.application.start()
    page.reload()
    page.wait_for_selector("body[data-ready]")
    bench.settle()
    strokes = layer(bench).strokes
    bench.leaf("strokes")
    page.fill("#strokes-last", "3")
    page.click('[data-strokes="last"]')
    bar = page.locator("#strokes-strength").bounding_box()
    page.mouse.click(bar["x"] + bar["width"] * 0.3, bar["y"] + bar["height"] / 2)
    bench.settle()
    now = layer(bench).strokes
    assert now[0] == strokes[0] and all(
        new.opacity == pytest.approx(old.opacity * 0.6, abs=0.01) for new, old in zip(now[1:], strokes[1:], strict=True)
    )


def test_a_mask_as_a_whole_is_curved_shifted_linked_inverted_and_unlinked(bench):
    page = bench.page
    bench.add("exposure")
    page.keyboard.press("4")
    bench.drag((0.5, 0.5), (0.6, 0.65))
    bench.leaf("mask")
    page.locator("#mask-tone summary").click()
    page.locator("#mask-curve").scroll_into_view_if_needed()
    curve = page.locator("#mask-curve").bounding_box()
    page.mouse.move(curve["x"] + curve["width"] * 0.5, curve["y"] + curve["height"] * 0.5)
    page.mouse.down()
    page.mouse.move(curve["x"] + curve["width"] * 0.5, curve["y"] + curve["height"] * 0.2, steps=4)
    page.mouse.up()
    bench.settle()
    assert layer(bench).mask.curve[1] == pytest.approx((0.5, 0.8), abs=0.02)
    centre = layer(bench).mask.parts[0].settings["centre"]
    page.click("[data-shift-mask]")
    bench.drag((0.5, 0.5), (0.55, 0.5))
    page.locator("#stage").focus()
    page.keyboard.press("Shift+ArrowDown")
    bench.settle()
    shifted = layer(bench).mask.parts[0].settings["centre"]
    assert shifted[0] > centre[0] + 40 and shifted[1] == pytest.approx(centre[1] + 10)
    first = layer(bench).id

    bench.add("levels", leaf="mask")
    page.select_option("#take-mask", f"link {first}")
    bench.settle()
    expect(page.locator("#mask")).to_contain_text("Begins as the mask of ‘Exposure’")
    assert np.array_equal(codes(bench), codes(bench, 1))
    page.locator('#mask [data-field="mask.invert"]').click()
    bench.settle()
    assert np.abs(codes(bench).astype(int) + codes(bench, 1) - 255).max() <= 1
    page.locator(f'[data-choose="{first}"]').click()
    bench.settle()
    page.keyboard.press("Delete")
    expect(page.locator("#says")).to_contain_text("Unlink that mask first")
    page.locator("[data-choose]").last.click()
    bench.settle()
    page.locator('#mask [data-field="mask.invert"]').click()
    bench.settle()
    page.click('[data-edit="unlink-mask"]')
    bench.settle()
    assert layer(bench).mask.linked == "" and np.array_equal(codes(bench), codes(bench, 1))


def test_painting_goes_on_in_the_mask_alone_and_the_hatch_takes_another_colour(bench, pen):
    page = bench.page
    bench.add("exposure", "closed")
    page.keyboard.press("2")
    pen.stroke((0.4, 0.4), (0.6, 0.4), force=1)
    see(bench, "mask-alone")
    assert bench.spot(0.5, 0.6) == [0, 0, 0]
    pen.event("mousePressed", (0.4, 0.6), 1)
    for i in range(20):
        pen.event("mouseMoved", (0.4 + 0.01 * i, 0.6), 1)
    bench.drawn()
    assert bench.spot(0.5, 0.6)[0] > 60
    pen.event("mouseReleased", (0.6, 0.6), 0)
    bench.settle()
    see(bench, "mask-over")
    colour = page.locator('#hatch input[type="color"]')
    expect(colour).to_be_visible()
    before = np.array([bench.spot(0.2 + 0.002 * i, 0.2) for i in range(12)])
    colour.fill("#ff0000")
    colour.dispatch_event("change")
    bench.settle()
    after = np.array([bench.spot(0.2 + 0.002 * i, 0.2) for i in range(12)])
    assert after[:, 0].max() > before[:, 0].max() + 60


def test_a_pen_that_leaves_the_page_a_second_pointer_and_a_point_lose_nothing(bench, pen):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("2")
    pen.event("mousePressed", (0.9, 0.5))
    for x in (0.95, 1.0, 1.3, 1.6, 0.8):
        pen.event("mouseMoved", (x, 0.5))
    page.evaluate("""() => document.querySelector('#stage').dispatchEvent(
        new PointerEvent('pointerdown', { pointerId: 99, pointerType: 'touch', bubbles: true, clientX: 500, clientY: 300 }))""")
    pen.event("mouseMoved", (0.7, 0.5))
    pen.event("mouseReleased", (0.7, 0.5), 0)
    bench.settle()
    [stroke] = layer(bench).strokes
    assert max(point[0] for point in stroke.points) > 1500
    page.mouse.click(*bench.on_stage(0.5, 0.5))
    bench.settle()
    assert len(layer(bench).strokes[1].points) == 1
    page.evaluate("""() => {
        const stage = document.querySelector('#stage');
        const box = stage.getBoundingClientRect();
        const send = (type, i, pressure) => stage.dispatchEvent(new PointerEvent(type, { pointerId: 5, pointerType: 'pen', isPrimary: true, bubbles: true,
            pressure, clientX: box.left + 200 + (i % 500), clientY: box.top + 100 + i / 50 }));
        send('pointerdown', 0, 0.5);
        for (let i = 1; i < 10000; i += 1) send('pointermove', i, i % 7 ? 0.4 : 0);
        send('pointerup', 10000, 0);
    }""")
    bench.settle()
    assert len(layer(bench).strokes[2].points) > 9000


def test_the_practice_pen_plays_pressure_and_tilt(bench):
    page = bench.page
    bench.add("grey")
    page.keyboard.press("2")
    page.click("#pressure summary")
    page.check('[data-drives="tilt size"]')
    page.select_option("#pressure [data-practice]", "shade")
    page.click("#practice-play")
    page.wait_for_selector("#history [data-do=undo]:not(:disabled)")
    page.wait_for_selector("#strokes", state="attached")
    bench.settle()
    [stroke] = layer(bench).strokes
    tilts = [tilt for _, _, _, tilt, _ in stroke.points]
    assert stroke.tilt.size and not stroke.tilt.flow and np.mean(tilts) == pytest.approx(0.65, abs=0.05)
    page.uncheck('[data-drives="tilt size"]')
    page.check("#mouse-pressure")
    page.click("#pressure summary")
    bench.drag((0.3, 0.3), (0.6, 0.3), steps=4)
    assert len({pressure for _, _, pressure in layer(bench).strokes[1].points}) > 1
    page.goto(f"{bench.application.url}/settings")
    expect(page.locator("#mouse-pressure")).to_be_checked()
    page.select_option("[data-practice]", "arc")
    page.click("#pad-play")
    expect(page.locator("#pad[data-played]")).to_be_visible()
    expect(page.locator('[data-told="pressure"]')).not_to_have_text("·")
