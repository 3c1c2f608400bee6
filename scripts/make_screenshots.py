"""Take the pictures in docs/screenshots from a fresh demo shelf. Needs the development packages and chromium."""

import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).resolve().parents[1]
TARGET = ROOT / "docs" / "screenshots"
PORT = 8799
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]
STROKE_AT = (0.3, 0.4)
BUSY = "body:not([data-busy])"


def take(page: Page, name: str) -> None:
    page.wait_for_selector(BUSY)
    page.screenshot(path=TARGET / f"{name}.png")


def stage(page: Page, x: float, y: float) -> tuple[float, float]:
    box = page.locator("#stage").bounding_box()
    return box["x"] + box["width"] * x, box["y"] + box["height"] * y


def add(page: Page, name: str) -> None:
    page.locator("#stage").focus()
    page.keyboard.press("a")
    page.fill("#add-search", name)
    page.keyboard.press("Enter")
    page.wait_for_selector(BUSY)


def drag(page: Page, selector: str, start: tuple[float, float], end: tuple[float, float]) -> None:
    """Drag from one place to another, both in shares of an element, y upwards."""
    box = page.locator(selector).bounding_box()
    places = [(box["x"] + x * box["width"], box["y"] + (1 - y) * box["height"]) for x, y in (start, end)]
    page.mouse.move(*places[0])
    page.mouse.down()
    page.mouse.move(*places[1], steps=6)
    page.mouse.up()
    page.wait_for_selector(BUSY)


def curve_and_levels(page: Page) -> None:
    """A curve with a stretch that is nearly flat, and what levels clip."""
    page.locator("#strip [data-choose]").last.click()
    page.wait_for_selector(BUSY)
    add(page, "curves")
    drag(page, "#curve", (0.3, 0.3), (0.32, 0.55))
    drag(page, "#curve", (0.6, 0.7), (0.6, 0.58))
    page.mouse.move(*stage(page, 0.35, 0.4))
    page.wait_for_selector("#curve .spots circle")
    page.wait_for_timeout(1200)
    take(page, "curve")
    add(page, "levels")
    page.locator('[data-handle="white"]').focus()
    for _ in range(12):
        page.keyboard.press("Shift+ArrowLeft")
        page.wait_for_selector(BUSY)
    page.locator('[data-view="clipping"]').click()
    page.wait_for_timeout(1200)
    take(page, "clipping")
    page.locator('[data-view="finished"]').click()


def picked_strokes(page: Page) -> None:
    """Earlier strokes picked over the map of light; the brush is in the hand again afterwards."""
    page.locator('[data-view="lighter-darker"]').click()
    page.locator('[data-pick="strokes"]').click()
    page.mouse.click(*stage(page, *STROKE_AT))
    page.wait_for_selector("#overlay .stroke-body")
    take(page, "strokes")
    page.keyboard.press("Escape")
    page.locator('[data-view="finished"]').click()
    page.locator("#stage").focus()
    page.keyboard.press("2")


def scribble(page: Page, *places: tuple[float, float]) -> None:
    page.mouse.move(*stage(page, *places[0]))
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*stage(page, *place), steps=8)
    page.mouse.up()
    page.wait_for_timeout(200)
    page.wait_for_selector(BUSY)


def regions_and_halos(page: Page) -> None:
    """A region grown from scribbles; the backdrop's mask grown too far, and where that bleeds over."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Vase trio, untouched"]').first.click()
    page.wait_for_selector("body[data-ready]")
    page.wait_for_selector(BUSY)
    add(page, "exposure")
    page.keyboard.press("6")
    scribble(page, (0.33, 0.3), (0.35, 0.7))
    scribble(page, (0.36, 0.88), (0.39, 0.9))
    page.keyboard.down("Alt")
    scribble(page, (0.45, 0.72), (0.52, 0.74))
    page.keyboard.up("Alt")
    page.locator('[data-view="mask-over"]').click()
    page.locator("#mask .part summary").first.click()
    take(page, "region")
    page.locator('[data-view="finished"]').click()
    page.keyboard.press("1")
    add(page, "exposure")
    page.select_option("#add-part", "backdrop")
    page.wait_for_selector("#mask .part")
    for field, value in (("settings.stops", "0.6"), ("mask.grow", "8")):
        page.fill(f'#desk input[type="number"][data-field="{field}"]', value)
        page.keyboard.press("Enter")
        page.wait_for_selector(BUSY)
    page.locator("#mask-faults summary").click()
    page.click('[data-area="halos"]')
    page.locator("#fault-list li button").nth(1).click()
    page.locator("#fault-list").scroll_into_view_if_needed()
    page.wait_for_timeout(1200)
    take(page, "halos")
    page.goto(f"http://127.0.0.1:{PORT}/settings")
    page.select_option("[data-practice]", "arc")
    page.check('[data-drives="pressure size"]')
    page.click("#pad-play")
    page.wait_for_selector("#pad[data-played]")
    take(page, "settings")


def tour(page: Page) -> None:
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "shelf.png")
    page.locator(".plate-card a.picture").first.click()
    page.wait_for_selector("body[data-ready]")
    page.locator('[data-choose="backdrop"]').click()
    page.keyboard.press("2")
    page.wait_for_selector(BUSY)
    page.mouse.move(*stage(page, 0.62, 0.62))
    page.wait_for_selector("#chip:not([hidden])")
    take(page, "bench")
    page.locator('[data-view="mask-over"]').click()
    take(page, "mask-over")
    page.locator('[data-choose="shape"]').click()
    page.wait_for_selector(BUSY)
    page.locator('[data-view="grey-alone"]').click()
    page.mouse.move(*stage(page, 0.5, 0.75))
    take(page, "grey-alone")
    page.locator('[data-view="finished"]').click()
    page.locator("#add-button").click()
    page.wait_for_load_state("networkidle")
    page.locator('#add section:not(#add-recent) [data-add="split-tone"]').hover()
    page.wait_for_selector("#trying:not([hidden])")
    page.wait_for_timeout(800)
    take(page, "add")
    page.locator("#add [data-close]").click()
    picked_strokes(page)
    for place in (0.42, 0.5, 0.55):
        page.mouse.move(*stage(page, place, 0.8))
        page.mouse.down()
        page.mouse.move(*stage(page, place + 0.05, 0.85), steps=8)
        page.mouse.up()
        page.wait_for_selector(BUSY)
    page.keyboard.press("Control+z")
    page.wait_for_selector(BUSY)
    curve_and_levels(page)
    page.locator("#log-button").click()
    page.wait_for_selector("#log-entries li")
    take(page, "log")
    page.locator("#export-button").click()
    page.locator("#export-format").select_option("tiff")
    page.locator("#export-depth").select_option("16")
    page.get_by_role("button", name="Write the file").click()
    page.wait_for_selector("#export-job a[data-ready]", timeout=120_000)
    take(page, "export")
    regions_and_halos(page)


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as data:
        command = [sys.executable, "-m", "glyptic.cli.main", "serve", "--demo", "--data", data, "--port", str(PORT)]
        server = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        try:
            while "http://" not in server.stdout.readline():
                continue
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
                tour(browser.new_page(viewport={"width": 1280, "height": 800}))
                browser.close()
        finally:
            server.terminate()
            server.wait()


if __name__ == "__main__":
    main()
