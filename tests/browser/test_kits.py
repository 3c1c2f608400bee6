"""Kits by hand: kept from cards, tried and added from Add, closed with Shift, the contrary with Alt, asked for names."""

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


def keep(bench, name):
    page = bench.page
    page.locator("#stage").focus()
    page.keyboard.press("Shift+K")
    page.fill('#kit-form [name="name"]', name)
    page.keyboard.press("Enter")


def open_add(bench, search):
    page = bench.page
    page.locator("#stage").focus()
    page.keyboard.press("a")
    expect(page.locator("#add-kits [data-kit]").first).to_be_visible()
    page.fill("#add-search", search)
    return page.locator("#add-kits [data-kit]").filter(has_text=search)


def test_a_kit_is_kept_tried_added_closed_and_turned_over(bench):
    page = bench.page
    bench.add("exposure")
    field = bench.page.locator('#desk input.number[data-field="settings.stops"]')
    field.fill("-1")
    field.press("Enter")
    bench.settle()
    keep(bench, "By the window")
    expect(page.locator("#kit")).to_be_hidden()
    page.keyboard.press("Delete")
    bench.settle()
    untouched = bench.spot(0.5, 0.5)
    entry = open_add(bench, "By the window")
    entry.hover()
    expect(page.locator("#trying")).to_have_text("Trying By the window")
    bench.settle()
    darker = bench.spot(0.5, 0.5)
    page.keyboard.down("Alt")
    expect(page.locator("#trying")).to_contain_text("turned over")
    bench.settle()
    lighter = bench.spot(0.5, 0.5)
    page.keyboard.up("Alt")
    assert darker[1] + 20 < untouched[1] < lighter[1] - 20
    entry.click(modifiers=["Shift"])
    bench.settle()
    stack = bench.current().stack
    assert (stack.layers[-1].kind, stack.layers[-1].mask.start) == ("group", "closed")
    expect(page.locator('[data-hand="paint"]')).to_have_attribute("aria-checked", "true")
    bench.drag((0.45, 0.5), (0.55, 0.5))
    bench.settle()
    assert bench.spot(0.5, 0.5)[1] < untouched[1] - 10
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    bench.settle()
    assert bench.spot(0.5, 0.5) == untouched


def test_a_name_that_is_taken_is_asked_for(bench):
    page = bench.page
    bench.add("exposure")
    keep(bench, "Taken")
    expect(page.locator("#kit")).to_be_hidden()
    keep(bench, "Taken")
    expect(page.locator("#kit-form .problem")).to_contain_text("There is a kit called ‘Taken’ already")
    page.locator("[data-keep-instead]").click()
    expect(page.locator("#kit")).to_be_hidden()
    expect(open_add(bench, "Taken")).to_have_count(1)


def test_the_page_of_kits_renames_removes_and_reads_what_it_wrote(bench, tmp_path):
    page = bench.page
    bench.add("exposure")
    keep(bench, "Passed on")
    expect(page.locator("#kit")).to_be_hidden()
    page.goto(page.url.split("/plates")[0] + "/kits")
    card = page.locator(".plate-card", has=page.locator('[value="Passed on"]'))
    with page.expect_download() as download:
        card.get_by_text("Write").click()
    file = tmp_path / "kit.json"
    download.value.save_as(file)
    page.set_input_files("#kit-files", file)
    expect(page.locator("#kit-trouble")).to_contain_text("already")
    card.locator(".name").fill("Another")
    card.locator(".name").press("Enter")
    expect(page.locator('[value="Another"]')).to_have_count(1)
    page.set_input_files("#kit-files", file)
    expect(page.locator('[value="Passed on"]')).to_have_count(1)
    page.locator(".plate-card", has=page.locator('[value="Another"]')).get_by_text("Remove").click()
    expect(page.locator('[value="Another"]')).to_have_count(0)
    page.locator(".bin summary").click()
    page.locator(".bin li", has_text="Another").get_by_text("Put back").click()
    expect(page.locator('[value="Another"]')).to_have_count(1)
