"""Colour and files from the page: a wide picture to three deliveries at once, a raw file, a file of several pictures."""

import io
import zipfile

import numpy as np
import pytest
import tifffile
from PIL import Image
from playwright.sync_api import expect

from glyptic.demo.practice_camera import raw_of
from glyptic.formats import read_picture
from glyptic.formats.icc import of_space
from glyptic.pixels.spaces import DISPLAY_P3
from tests.browser.conftest import Bench


def opened(page, application, name, data):
    """A file opened from the shelf as a hand does; what the shelf says of it, and its plate's page."""
    page.goto(application.url)
    page.wait_for_selector("body[data-ready]")
    page.set_input_files("#open-files", {"name": name, "mimeType": "application/octet-stream", "buffer": data})
    expect(page.locator(".plate-card").first.get_by_role("link", name=f"Work on {name.split('.')[0]}")).to_be_visible()
    return page.locator("#uploads li")


def on_bench(page, application):
    page.locator(".plate-card a").first.click()
    page.wait_for_selector("body[data-ready]")
    made = Bench(page, application)
    made.settle()
    return made


def strong_picture():
    """A Display P3 picture whose left half is its purest green, which neither sRGB nor a press holds."""
    px = np.full((200, 300, 3), 128, np.uint8)
    px[:, :150] = (0, 255, 0)
    buffer = io.BytesIO()
    Image.fromarray(px).save(buffer, "PNG", icc_profile=of_space(DISPLAY_P3))
    return buffer.getvalue()


def test_a_wide_picture_is_seen_as_printed_and_delivered_three_ways_at_once_with_its_caption(page, application):
    opened(page, application, "green wall.png", strong_picture())
    bench = on_bench(page, application)
    expect(page.locator(".file-line")).to_contain_text("works in Display P3")
    bench.add("brightness-contrast")
    page.get_by_text("Printed", exact=True).click()
    expect(page.locator("#press output")).to_contain_text("50")
    bench.settle()
    row = [0.3 + at / 200 for at in range(12)]
    marked = {tuple(bench.spot(x, 0.5)) for x in row}
    page.locator('#press [name="marks"]').uncheck()
    bench.settle()
    [plain] = {tuple(bench.spot(x, 0.5)) for x in row}
    assert len(marked) > 1 and plain in marked and max(plain) < 250
    page.goto(f"{application.url}/plates/{bench.plate}/file/")
    page.get_by_label("Title").fill("The wall, grün")
    page.get_by_text("Keep the words").click()
    expect(page.locator("main")).to_contain_text("Written here, a step of the log.")
    page.goto(f"{application.url}/plates/{bench.plate}/")
    page.wait_for_selector("body[data-ready]")
    page.get_by_role("button", name="Export").click()
    boxes = page.locator('#export [name="delivery"]')
    expect(boxes.nth(2)).to_be_visible()
    for at in range(3):
        boxes.nth(at).check()
    page.get_by_text("Write what is ticked").click()
    expect(page.locator(".run-sum")).to_contain_text("3 of 3")
    with page.expect_download() as download:
        page.get_by_text("Fetch all files").click()
    with zipfile.ZipFile(download.value.path()) as packed:
        files = {name: packed.read(name) for name in packed.namelist()}
    assert len(files) == 3
    assert all("The wall, grün".encode() in data for data in files.values())
    assert all(read_picture(data).codes.size for data in files.values())


def test_a_raw_file_is_developed_again_and_a_second_time_over_itself(page, application):
    scene = np.full((120, 180, 3), 90, np.uint8)
    line = opened(page, application, "from the camera.dng", raw_of(scene))
    expect(line).to_contain_text("A raw file")
    line.get_by_text("Choose").click()
    exposure = page.locator("#d-exposure")
    exposure.focus()
    for _ in range(5):
        exposure.press("ArrowRight")
    page.wait_for_load_state("networkidle")
    page.get_by_text("A second time, over it").click()
    page.wait_for_selector("body[data-ready]")
    bench = Bench(page, application)
    bench.settle()
    base, second = bench.current().stack.layers
    assert base.source == second.source and second.mask.start == "closed"
    assert base.reading is None and second.reading["development"]["exposure"] > 0


def test_a_file_of_several_pictures_asks_which(page, application):
    buffer = io.BytesIO()
    with tifffile.TiffWriter(buffer) as writer:
        for value in (60, 180):
            writer.write(np.full((30, 40, 3), value, np.uint8), photometric="rgb")
    line = opened(page, application, "two of them.tif", buffer.getvalue())
    expect(line).to_contain_text("holds 2 pictures; this is number 1")
    line.get_by_text("Choose").click()
    page.locator('[name="page"]').fill("2")
    page.get_by_text("Show it").click()
    expect(page.locator('[name="page"]')).to_have_value("2")
    page.get_by_text("To the bench").click()
    page.wait_for_selector("body[data-ready]")
    bench = Bench(page, application)
    bench.settle()
    assert bench.spot(0.5, 0.5) == [180, 180, 180]


@pytest.mark.parametrize("back", [False, True], ids=["kept", "undone"])
def test_another_working_space_is_a_step(page, application, back):
    opened(page, application, f"a space {back}.png", strong_picture())
    bench = on_bench(page, application)
    page.goto(f"{application.url}/plates/{bench.plate}/file/")
    page.locator("form", has=page.locator('[name="space"][value="wide"]')).get_by_text("Work in it").click()
    expect(page.locator("form", has=page.locator('[name="space"][value="wide"]'))).to_contain_text("is worked in now")
    assert bench.current().stack.working_space == "wide"
    page.goto(f"{application.url}/plates/{bench.plate}/")
    page.wait_for_selector("body[data-ready]")
    if back:
        page.keyboard.press("Control+z")
        expect(page.locator(".file-line")).to_contain_text("works in Display P3")
    assert bench.current().stack.working_space == ("display-p3" if back else "wide")
