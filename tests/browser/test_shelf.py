"""The shelf by hand: found, chosen by mouse and keys, gathered, marked, removed and put back, many opened at once."""

import io
import re

import pytest
from PIL import Image
from playwright.sync_api import expect

pytestmark = pytest.mark.browser
NAMES = ("ewer one", "ewer two", "ewer three", "ewer four", "ewer five")


def picture(shade):
    stream = io.BytesIO()
    Image.new("RGB", (60, 40), (shade, 80, 90)).save(stream, "JPEG")
    return stream.getvalue()


@pytest.fixture
def shelf(page, application, tmp_path):
    """The page of the shelf, looking at five plates of a new shoot."""
    page.goto(application.url)
    page.wait_for_selector("body[data-ready]")
    page.fill("#new-shoot input", f"Ewers {tmp_path.name}")
    page.keyboard.press("Enter")
    expect(page.locator(".shoot-name")).to_be_visible()
    files = [{"name": f"{name}.jpg", "mimeType": "image/jpeg", "buffer": picture(i)} for i, name in enumerate(NAMES)]
    page.set_input_files("#open-files", files)
    expect(page.locator("#uploads li")).to_have_count(0)
    expect(page.locator(".plate-card")).to_have_count(5)
    page.select_option("#order", "name")
    expect(page).to_have_url(re.compile("order=name"))
    return page


def cards(page):
    return [card.input_value() for card in page.locator(".plate-card .name").all()]


def chosen(page):
    return [card.locator(".name").input_value() for card in page.locator(".plate-card.chosen").all()]


def test_plates_are_chosen_by_mouse_and_by_keys(shelf):
    page, order = shelf, cards(shelf)
    pictures = page.locator(".plate-card .picture")
    pictures.nth(0).click(modifiers=["Control"])
    pictures.nth(2).click(modifiers=["Shift"])
    assert chosen(page) == order[:3]
    expect(page.locator("#chosen-count")).to_have_text("3 chosen")
    page.keyboard.press("Escape")
    assert chosen(page) == []
    pictures.nth(1).focus()
    page.keyboard.press("Space")
    page.keyboard.press("Shift+ArrowRight")
    assert chosen(page) == order[1:3]
    page.keyboard.press("Control+a")
    assert chosen(page) == order
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile(r"/plates/\d+/"))


def test_chosen_plates_are_marked_found_by_mark_and_removed_and_put_back(shelf):
    page = shelf
    page.locator(".plate-card").nth(1).hover()
    page.locator(".plate-card .tick input").nth(1).check()
    page.locator("#chosen-marks [data-mark='1']").click()
    expect(page.locator('.plate-card .mark-chip[data-mark="1"][aria-pressed="true"]')).to_have_count(1)
    page.locator(".rail .mark-filter").first.click()
    expect(page.locator(".plate-card")).to_have_count(1)
    expect(page).to_have_url(re.compile("marks=1"))
    page.go_back()
    expect(page.locator(".plate-card")).to_have_count(5)
    page.keyboard.press("Control+a")
    page.locator("[data-chosen-remove]").click()
    expect(page.locator("#view h2", has_text="No plate is like that")).to_be_visible()
    page.locator("#says").get_by_text("Put back").click()
    expect(page.locator(".plate-card")).to_have_count(5)


def test_a_search_goes_through_names_and_notes_and_keeps_its_place(shelf):
    page = shelf
    note = page.locator(".plate-card .note-line").nth(3)
    note.fill("for the catalogue")
    note.press("Enter")
    expect(page.locator('.plate-card .note-line[value="for the catalogue"]')).to_have_count(1)
    page.fill("#q", "ewer catalog")
    expect(page.locator(".plate-card")).to_have_count(1)
    page.reload()
    expect(page.locator(".plate-card")).to_have_count(1)
    expect(page.locator("#q")).to_have_value("ewer catalog")
    page.fill("#q", "nothing like it")
    expect(page.locator(".empty")).to_contain_text("None has “nothing like it”")


def test_a_bad_file_among_many_is_named_and_the_others_are_opened(shelf):
    page = shelf
    files = [{"name": f"more {i}.jpg", "mimeType": "image/jpeg", "buffer": picture(50 + i)} for i in range(3)]
    files.insert(1, {"name": "broken.jpg", "mimeType": "image/jpeg", "buffer": b"no picture"})
    page.set_input_files("#open-files", files)
    expect(page.locator("#uploads li.failed")).to_contain_text("broken.jpg")
    expect(page.locator(".plate-card")).to_have_count(8)


def test_a_shoot_is_renamed_let_go_and_made_again(shelf):
    page = shelf
    page.locator(".shoot-name").fill("Ewers, spring")
    page.keyboard.press("Enter")
    expect(page.locator(".rail", has_text="Ewers, spring")).to_be_visible()
    page.locator("[data-dissolve]").click()
    expect(page.locator(".rail")).not_to_contain_text("Ewers, spring")
    page.get_by_text("Make it again").click()
    expect(page.locator(".rail li", has_text="Ewers, spring")).to_contain_text("5")


def test_a_run_lays_a_kit_on_the_chosen_plates_and_is_undone_and_deliveries_are_fetched(shelf, application):
    page = shelf
    kits = page.request.get(f"{application.url}/kits")
    assert kits.ok
    text = (
        '{"format": "glyptic-kit", "version": 1, "name": "Evening %s", "size": [60, 40], '
        '"layers": [{"kind": "exposure", "name": "Darker", "settings": {"stops": -1}}]}'
    )
    page.goto(f"{application.url}/kits")
    name = f"run {id(page)}"
    file = {"name": "k.json", "mimeType": "application/json", "buffer": (text % name).encode()}
    page.set_input_files("#kit-files", file)
    expect(page.locator(f'.name[value="Evening {name}"]')).to_have_count(1)
    page.goto(application.url)
    page.wait_for_selector("body[data-ready]")
    page.locator(".rail li", has_text="Ewers").last.locator("a").click()
    expect(page.locator(".plate-card")).to_have_count(5)
    page.keyboard.press("Control+a")
    page.locator("[data-chosen-run]").click()
    page.select_option('#run-form [name="kit"]', label=f"Evening {name}")
    page.locator('#run-form [name="strength"]').fill("80")
    page.locator('#run-form [type="submit"]').click()
    expect(page.locator(".run-title")).to_have_text(f"Kit ‘Evening {name}’ at 80 %")
    expect(page.locator(".run-sum")).to_contain_text("5 of 5")
    expect(page.locator(".run-sum")).to_contain_text("ended")
    page.locator(".run-line.done button").first.click()
    expect(page.locator(".run-sum")).to_contain_text("1 taken back")
    page.get_by_text("Undo the run").click()
    expect(page.locator(".run-sum")).to_contain_text("5 taken back")
    page.go_back()
    page.wait_for_selector("body[data-ready]")
    page.keyboard.press("Control+a")
    page.locator("[data-chosen-run]").click()
    page.locator('#run-form [value="deliver"]').check()
    page.locator('#run-form [type="submit"]').click()
    expect(page.locator(".run-sum")).to_contain_text("5 of 5")
    with page.expect_download() as download:
        page.get_by_text("Fetch all files").click()
    assert download.value.suggested_filename.endswith(".zip")


def test_a_run_goes_on_after_the_server_was_killed_and_does_nothing_twice(shelf, application):
    page = shelf
    page.keyboard.press("Control+a")
    page.locator("[data-chosen-run]").click()
    page.locator('#run-form [value="deliver"]').check()
    for box in page.locator("[data-deliver]").all():
        box.check()
    page.locator('#run-form [type="submit"]').click()
    expect(page.locator(".run-title")).to_contain_text("Deliveries")
    count = int(page.locator(".run-sum b").inner_text().split()[-1])
    application.kill()
    application.start()
    page.reload()
    expect(page.locator(".run-sum")).to_contain_text(f"{count} of {count}")
    number = page.url.rsplit("/", 1)[1]
    folder = application.folder / "shelf" / "deliveries" / f"run-{number}"
    written = [path for path in folder.rglob("*") if path.is_file()]
    assert len(written) == count and not [path for path in written if path.name.startswith(".")]
