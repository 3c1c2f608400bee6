"""The hand on strokes, drawn parts and masks, as a retoucher works them."""

import pytest
from playwright.sync_api import expect

from glyptic.document.edits.strokes import GREY_PART

pytestmark = pytest.mark.browser


@pytest.fixture
def grey(bench):
    """A grey layer with two strokes that cross, and the hand on Paint."""
    bench.add("grey")
    bench.page.keyboard.press("2")
    bench.drag((0.4, 0.5), (0.6, 0.5))
    bench.drag((0.5, 0.4), (0.5, 0.6))
    return bench


def strokes(bench):
    return bench.current().stack.layers[1].strokes


def test_earlier_strokes_are_picked_weakened_shifted_flipped_and_removed(grey):
    page = grey.page
    grey.leaf("strokes")
    page.click('[data-pick="strokes"]')
    page.mouse.click(*grey.on_stage(0.5, 0.5))
    found = page.locator("#strokes-found li")
    expect(found).to_have_count(2)
    expect(page.locator("#strokes-found input:checked")).to_have_attribute("data-stroke", f"{GREY_PART} 1")
    page.mouse.click(*grey.on_stage(0.5, 0.5))
    expect(page.locator("#strokes-found input:checked")).to_have_attribute("data-stroke", f"{GREY_PART} 0")
    expect(page.locator("#overlay .stroke-body")).to_have_count(1)
    before, first, second = grey.spot(0.42, 0.5), *strokes(grey)

    bar = page.locator("#strokes-strength").bounding_box()
    page.mouse.click(bar["x"] + bar["width"] * 0.25, bar["y"] + bar["height"] / 2)
    grey.settle()
    weaker = strokes(grey)
    assert weaker[0].opacity == pytest.approx(first.opacity * 0.5, abs=0.02) and weaker[1] == second
    assert grey.spot(0.42, 0.5)[1] < before[1]

    x, y = grey.on_stage(0.45, 0.5)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 60, steps=5)
    page.mouse.up()
    grey.settle()
    shifted = strokes(grey)
    assert next(iter(shifted[0].points))[1] > next(iter(first.points))[1] + 20 and shifted[1] == second

    page.get_by_role("button", name="Flip").click()
    grey.settle()
    assert strokes(grey)[0].to == 0
    page.locator('[data-strokes="remove"]').click()
    grey.settle()
    assert strokes(grey) == (second,)
    for _ in range(4):
        page.locator("#stage").focus()
        page.keyboard.press("Control+z")
        grey.settle()
    assert strokes(grey) == (first, second)


def test_the_last_strokes_are_chosen_by_number(grey):
    page = grey.page
    grey.leaf("strokes")
    page.fill("#strokes-last", "1")
    page.get_by_role("button", name="Choose the last").click()
    expect(page.locator("#strokes-says")).to_contain_text("One stroke chosen")
    page.locator('[data-strokes="flip"]').click()
    grey.settle()
    assert [stroke.to for stroke in strokes(grey)] == [1, 0]


def test_even_out_and_neutral_are_sides_of_a_grey_layer_and_s_takes_the_other(grey):
    page = grey.page
    page.click('[data-side="even"]')
    expect(page.locator("#does")).to_contain_text("Evens the painting out by 10 % on ‘Grey layer’")
    grey.drag((0.45, 0.45), (0.55, 0.55))
    page.click('[data-side="0.5"]')
    expect(page.locator("#does")).to_contain_text("Makes neutral by")
    grey.drag((0.45, 0.45), (0.55, 0.55))
    last = strokes(grey)[2:]
    assert last[0].even > 1 and last[0].to is None and last[1].to == 0.5
    page.locator("#stage").focus()
    page.keyboard.press("s")
    expect(page.locator("#does")).to_contain_text("Lightens")
    height = page.locator("#hand").bounding_box()["height"]
    page.keyboard.press("1")
    assert page.locator("#hand").bounding_box()["height"] == height


def test_a_straight_line_joins_two_strokes_and_a_smoothed_one_ends_where_the_hand_is(grey):
    page = grey.page
    page.keyboard.down("Shift")
    page.mouse.click(*grey.on_stage(0.7, 0.3))
    page.keyboard.up("Shift")
    grey.settle()
    points = list(strokes(grey)[2].points)
    assert points[0][:2] == pytest.approx(list(strokes(grey)[1].points)[-1][:2], abs=0.1) and len(points) == 2
    page.click("#pressure summary")
    page.locator("#smoothing").fill("80")
    page.click("#pressure summary")
    grey.drag((0.3, 0.3), (0.3, 0.6), (0.6, 0.6))
    smooth = list(strokes(grey)[3].points)
    corner = min(abs(x - smooth[0][0]) + abs(y - smooth[-1][1]) for x, y, _ in smooth)
    assert corner > 20
    assert smooth[-1][0] == max(x for x, _, _ in smooth)


def test_the_brush_is_sized_by_dragging_with_a_key_held_and_kept_under_a_name(grey):
    page = grey.page
    size = page.locator('[data-dial-number="size"]')
    before = float(size.input_value())
    page.mouse.move(*grey.on_stage(0.5, 0.5))
    page.keyboard.down("d")
    page.mouse.down()
    x, y = grey.on_stage(0.5, 0.5)
    page.mouse.move(x + 60, y - 40, steps=4)
    page.mouse.up()
    page.keyboard.up("d")
    assert float(size.input_value()) > before * 1.4 and len(strokes(grey)) == 2
    expect(page.locator('[data-dial-number="hardness"]')).to_have_value("20")
    page.click("#pressure summary")
    page.fill("#preset-name", "Rims")
    page.click("#preset-keep")
    kept = size.input_value()
    page.locator("#stage").focus()
    page.keyboard.press("ArrowDown")
    page.select_option("#presets", "Rims")
    expect(size).to_have_value(kept)


def test_an_oval_has_handles_and_its_lamp_switches_it_off(bench):
    page = bench.page
    bench.add("exposure")
    page.locator('#desk input.number[data-field="settings.stops"]').fill("1.5")
    page.keyboard.press("Enter")
    bench.settle()
    page.keyboard.press("4")
    bench.drag((0.5, 0.5), (0.6, 0.7))
    bench.leaf("mask")
    page.locator(".part summary").click()
    grip = page.locator('#handles [data-grip="1"]').bounding_box()
    radii = bench.current().stack.layers[1].mask.parts[0].settings["radii"]
    page.mouse.move(grip["x"] + 5, grip["y"] + 5)
    page.mouse.down()
    page.mouse.move(grip["x"] + 85, grip["y"] + 5, steps=5)
    page.mouse.up()
    bench.settle()
    assert bench.current().stack.layers[1].mask.parts[0].settings["radii"][0] > radii[0] + 40
    lifted = bench.spot(0.5, 0.5)
    page.locator(".part .lamp").click()
    bench.settle()
    assert not bench.current().stack.layers[1].mask.parts[0].enabled
    assert bench.spot(0.5, 0.5)[1] < lifted[1] - 20
    page.locator("#stage").focus()
    page.keyboard.down("e")
    bench.settle()
    assert bench.spot(0.1, 0.5)[1] > 0
    everywhere = bench.spot(0.5, 0.5)
    page.keyboard.up("e")
    bench.settle()
    assert everywhere[1] > bench.spot(0.5, 0.5)[1] + 20


def test_outlines_are_drawn_freehand_and_corner_by_corner(bench):
    page = bench.page
    bench.add("exposure")
    page.keyboard.press("5")
    bench.drag((0.3, 0.3), (0.5, 0.3), (0.5, 0.5), (0.3, 0.5), steps=6)
    for place in ((0.6, 0.3), (0.8, 0.3), (0.7, 0.6), (0.6, 0.3)):
        page.mouse.click(*bench.on_stage(*place))
    bench.settle()
    parts = bench.current().stack.layers[1].mask.parts
    assert [part.kind for part in parts] == ["outline", "outline"]
    assert len(parts[0].settings["points"]) > 6 and len(parts[1].settings["points"]) == 3


def test_a_part_is_picked_in_the_picture(bench):
    page = bench.page
    bench.add("exposure", "closed")
    bench.way("tone")
    bench.settle()
    page.locator(".part").get_by_role("button", name="Pick").click()
    page.mouse.click(*bench.on_stage(0.5, 0.5))
    bench.settle()
    settings = bench.current().stack.layers[1].mask.parts[0].settings
    assert 0 < settings["low"] < settings["high"] and settings["soft_low"] > 0


def test_a_pair_is_added_closed_and_grouped(bench):
    page = bench.page
    page.locator("#stage").focus()
    page.keyboard.press("a")
    page.keyboard.type("lighter & darker")
    page.keyboard.press("Enter")
    bench.settle()
    group = bench.current().stack.layers[1]
    assert [layer.name for layer in group.layers] == ["Lighter", "Darker"]
    assert all(layer.mask.start == "closed" for layer in group.layers)
