"""Looking: the hairline and the flick ask for nothing; proofs, sets, pins and checks by hand and by key."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


@pytest.fixture
def dark(bench):
    """A bench with an exposure of minus one stop over the picture."""
    bench.add("exposure")
    field = bench.page.locator('#desk input.number[data-field="settings.stops"]')
    field.fill("-1")
    field.press("Enter")
    bench.settle()
    return bench


def asked(page):
    """What is asked of the server from now on."""
    found = []
    page.on("request", lambda request: found.append(request.url))
    return found


def at_hand(bench):
    """Wait until what a flick shows is here: the page has nothing under way for a while after its rest."""
    bench.page.wait_for_timeout(2200)
    bench.settle()


def test_the_hairline_and_the_flick_ask_for_nothing_and_edit_nothing(dark):
    page, revision = dark.page, dark.current().revision
    now = dark.spot(0.5, 0.5)
    page.locator("#stage").focus()
    page.keyboard.press("b")
    at_hand(dark)
    expect(page.locator("#side-other")).to_have_text("before")
    before = dark.spot(0.5, 0.5, "#other")
    assert before[1] > now[1] + 20
    line = page.locator("#hairline")
    box = line.bounding_box()
    page.mouse.move(box["x"] + 9, box["y"] + 250)
    at_hand(dark)
    page.mouse.down()
    found = asked(page)
    page.mouse.move(*dark.on_stage(0.3, 0.5), steps=15)
    at_rest = len(found)
    page.mouse.up()
    assert at_rest == 0 and float(line.get_attribute("aria-valuenow")) == pytest.approx(30, abs=1)
    for key in ("Shift+ArrowRight", "ArrowLeft", "y", "y"):
        page.keyboard.press(key)
    assert float(line.get_attribute("aria-valuenow")) == pytest.approx(39, abs=1)
    page.locator("#stage").focus()
    at_hand(dark)
    found.clear()
    for key in ("x", "h"):
        page.keyboard.down(key)
        assert dark.spot(0.5, 0.5) == before, "the frame after the key"
        page.keyboard.up(key)
    assert found == []
    page.locator('[data-form="beside"]').click()
    at_hand(dark)
    page.keyboard.press("b")
    dark.settle()
    expect(line).to_be_hidden()
    assert dark.spot(0.5, 0.5) == now and dark.current().revision == revision


def test_side_by_side_both_sides_lie_at_the_same_place_and_are_painted_through(dark):
    page = dark.page
    page.locator("#stage").focus()
    page.keyboard.press("b")
    page.locator('[data-form="beside"]').click()
    at_hand(dark)
    stage = page.locator("#stage").bounding_box()
    page.locator("#stage").focus()
    page.keyboard.press("p")
    page.mouse.move(*dark.on_stage(0.25, 0.5))
    page.keyboard.press("p")
    page.mouse.move(stage["x"] + 0.75 * stage["width"], stage["y"] + 0.5 * stage["height"])
    page.keyboard.press("p")
    dark.settle()
    first, second = dark.current().stack.notes.pins[-2:]
    assert (first["x"], first["y"]) == (pytest.approx(second["x"], abs=3), pytest.approx(second["y"], abs=3))
    page.locator('[data-form="upright"]').click()


def test_a_proof_is_pulled_by_keys_compared_with_and_returned_to(dark):
    page = dark.page
    page.locator("#stage").focus()
    page.keyboard.press("Control+Enter")
    page.keyboard.type("First state")
    page.keyboard.press("Control+Enter")
    expect(page.locator("#proof-count")).to_have_text("1")
    dark.settle()
    dim = dark.spot(0.5, 0.5)
    page.locator("#stage").focus()
    page.keyboard.press("q")
    dark.settle()
    expect(page.locator(".differs")).to_contain_text("‘Exposure’ changed")
    page.locator("[data-compare-proof]").click()
    at_hand(dark)
    expect(page.locator("#side-other")).to_have_text("proof ‘First state’")
    assert dark.spot(0.5, 0.5, "#other") == dim
    page.locator("[data-change-proof]").click()
    dark.settle()
    expect(page.locator("#change-scale")).to_be_visible()
    page.locator('[data-measure="change-stops"]').click()
    dark.settle()
    light = dark.spot(0.5, 0.5)
    assert light[0] > light[2] + 40, "it is lighter now than in the proof"
    page.locator("[data-return-proof]").click()
    dark.settle()
    page.locator('.views [data-view="finished"]').click()
    dark.settle()
    assert dark.spot(0.5, 0.5) == dim
    assert dark.current().sentence == "Returned to proof ‘First state’"


def test_pins_are_set_named_moved_and_removed_by_key(dark):
    page = dark.page
    page.mouse.move(*dark.on_stage(0.4, 0.5))
    page.locator("#stage").focus()
    page.keyboard.press("p")
    dark.settle()
    expect(page.locator(".pin-tag")).to_contain_text("(−")
    page.locator(".pin").click()
    page.locator('#pin-editor [name="name"]').fill("Wall")
    page.locator('#pin-editor [name="neutral"]').check()
    dark.settle()
    expect(page.locator(".pin-tag")).to_contain_text(re.compile(r"Wall.*to (yellow|red|blue|green)|Wall.*no cast"))
    page.keyboard.press("Enter")
    pin = dark.current().stack.notes.pins[0]
    page.locator(".pin").focus()
    page.keyboard.press("Shift+ArrowRight")
    dark.settle()
    assert dark.current().stack.notes.pins[0]["x"] == pytest.approx(pin["x"] + 10)
    page.keyboard.press("Delete")
    dark.settle()
    assert dark.current().stack.notes.pins == ()
    page.keyboard.press("Control+z")
    dark.settle()
    expect(page.locator(".pin")).to_have_count(1)


def test_a_set_is_kept_and_switched_by_its_facet(dark):
    page = dark.page
    dark.add("invert")
    page.locator("#strip [data-choose] .choose").nth(1).click(modifiers=["Control"])
    page.locator("#keep-set").click()
    page.keyboard.type("Both")
    page.keyboard.press("Enter")
    dark.settle()
    page.locator("[data-set-switch]").click()
    dark.settle()
    assert [layer.visible for layer in dark.current().stack.layers[1:]] == [False, False]
    expect(page.locator("[data-set-switch]")).to_have_attribute("aria-pressed", "false")
    page.locator("[data-set-switch]").click()
    dark.settle()
    assert [layer.visible for layer in dark.current().stack.layers[1:]] == [True, True]


def test_the_checks_find_mend_and_leave(dark):
    page = dark.page
    page.locator("#stage").focus()
    page.keyboard.press("k")
    expect(page.locator("#checks-say")).to_contain_text("found")
    finding = page.locator("#check-list li", has_text="darker than the base")
    expect(finding).to_contain_text("1.0 stops")
    finding.get_by_text("Leave it").click()
    page.keyboard.type("a night scene")
    page.keyboard.press("Enter")
    dark.settle()
    expect(page.locator("#checks-left")).to_contain_text("Left as they are: 1")
    assert dark.current().stack.notes.left[0]["why"] == "a night scene"
    page.locator("#checks-left summary").click()
    page.get_by_text("Take it up again").click()
    dark.settle()
    finding.get_by_text("A last exposure").click()
    dark.settle()
    expect(page.locator("#checks-say")).to_contain_text("found")
    expect(finding).to_have_count(0)
    assert dark.current().stack.layers[-1].name == "Last light"


def test_when_the_hand_rests_the_picture_becomes_exact_and_says_so(bench):
    sign = bench.page.locator("#exact")
    bench.add("sharpen")
    expect(sign).to_have_text(re.compile(r"exact · (nothing clipped|clipped: .* % dark, .* % light)"))
    bench.opacity_on_desk().fill("40")
    bench.opacity_on_desk().press("Enter")
    expect(sign).to_be_hidden()
    expect(sign).to_contain_text("exact ·")
    bench.page.keyboard.press("Escape")
    bench.page.locator('.zoombar [data-zoom="one"]').click()
    expect(sign).to_be_hidden()
    expect(sign).to_have_text("exact")
