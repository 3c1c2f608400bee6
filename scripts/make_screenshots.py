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


def leaf(page: Page, name: str) -> None:
    page.locator(f'#desk [role="tab"][data-leaf="{name}"]').click()


def choose(page: Page, layer: str) -> None:
    """Choose a layer by the name on its card."""
    page.locator(f'[data-choose="{layer}"] .name').click()
    page.wait_for_selector(BUSY)


def view(page: Page, name: str) -> None:
    page.locator(f'.views [data-view="{name}"]').click()


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
    page.locator("#strip .choose .name").last.click()
    page.wait_for_selector(BUSY)
    add(page, "curves")
    leaf(page, "settings")
    drag(page, "#curve", (0.3, 0.3), (0.32, 0.55))
    drag(page, "#curve", (0.6, 0.7), (0.6, 0.58))
    page.mouse.move(*stage(page, 0.35, 0.4))
    page.wait_for_selector("#curve .spots circle")
    page.wait_for_timeout(1200)
    add(page, "levels")
    page.locator('[data-handle="white"]').focus()
    for _ in range(12):
        page.keyboard.press("Shift+ArrowLeft")
        page.wait_for_selector(BUSY)


def scribble(page: Page, *places: tuple[float, float]) -> None:
    page.mouse.move(*stage(page, *places[0]))
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*stage(page, *place), steps=8)
    page.mouse.up()
    page.wait_for_timeout(200)
    page.wait_for_selector(BUSY)


def region(page: Page) -> None:
    """A region grown from scribbles."""
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
    view(page, "mask-over")
    leaf(page, "mask")
    page.locator("#mask .part summary").first.click()
    take(page, "region")


def frame_and_sheet(page: Page) -> None:
    """The worked panel: its frame in the hand, turned a little, and its sheet with the linen chosen."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Tile panel 27, straightened, on linen"]').first.click()
    page.wait_for_selector("body[data-ready]")
    page.wait_for_selector(BUSY)
    page.locator('[data-choose="linen"] .choose').click()
    page.wait_for_selector(BUSY)
    leaf(page, "settings")
    page.wait_for_timeout(800)
    take(page, "sheet")
    page.locator("#stage").focus()
    page.keyboard.press("8")
    page.wait_for_timeout(800)
    take(page, "frame")


def dim(page: Page) -> None:
    """The dim look, with the mask's leaf."""
    page.context.add_cookies([{"name": "glyptic-look", "value": "dim", "url": page.url}])
    page.reload()
    page.wait_for_selector("body[data-ready]")
    leaf(page, "mask")
    page.keyboard.press("3")
    page.mouse.move(*stage(page, 0.62, 0.62))
    take(page, "dim")
    page.context.add_cookies([{"name": "glyptic-look", "value": "light", "url": page.url}])
    page.reload()
    page.wait_for_selector("body[data-ready]")


def colour(page: Page) -> None:
    """A wide plate as printed, the file of a raw plate, a delivery's preview."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Tile panel, more colours than sRGB"]').first.click()
    page.wait_for_selector("body[data-ready]")
    view(page, "printed")
    page.get_by_text("cannot be printed").wait_for()
    at_rest(page)
    take(page, "printed")
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Cloth and cup, raw"]').first.click()
    page.wait_for_selector("body[data-ready]")
    page.get_by_text("File and colour").click()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "file.png")
    page.goto(f"http://127.0.0.1:{PORT}/deliveries")
    page.locator("button", has_text="Preview").first.click()
    page.locator(".preview img").first.wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "deliveries.png")


def at_rest(page: Page) -> None:
    """Wait until what is compared with is here."""
    page.wait_for_timeout(1500)
    page.wait_for_selector(BUSY)


def proof_and_pins(page: Page) -> None:
    """The worked vases as they were opened: a proof is pulled, two neutral pins are set."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Vase trio 114"]').first.click()
    page.wait_for_selector("body[data-ready]")
    page.locator('[data-opens="log"]').click()
    page.locator("#log-entries [data-go-to]").last.click()
    page.wait_for_selector(BUSY)
    page.locator("#log [data-close]").click()
    page.locator("#stage").focus()
    page.keyboard.press("Control+Enter")
    page.keyboard.type("Before the client came")
    page.keyboard.press("Tab")
    page.keyboard.type("She wants the backdrop darker at the right")
    page.keyboard.press("Enter")
    page.wait_for_selector("#proof-list .proof")
    page.locator("#proofs [data-close]").click()
    for x, y, name in ((0.24, 0.2, "Backdrop"), (0.7, 0.45, "Jar")):
        page.mouse.move(*stage(page, x, y))
        page.keyboard.press("p")
        page.wait_for_selector(BUSY)
        page.locator(".pin").last.click()
        page.fill('#pin-editor [name="name"]', name)
        page.check('#pin-editor [name="neutral"]')
        page.wait_for_selector(BUSY)
        page.keyboard.press("Enter")


def looking(page: Page) -> None:
    """The worked vases: the hairline, a map of change, the checks, the work sheet."""
    proof_and_pins(page)
    choose(page, "backdrop")
    leaf(page, "settings")
    field = page.locator('#desk input.number[data-field="opacity"]')
    field.fill("40")
    field.press("Enter")
    page.wait_for_selector(BUSY)
    page.locator("#strip [data-choose] .choose").nth(3).click(modifiers=["Control"])
    page.locator("#keep-set").click()
    page.keyboard.type("All burns")
    page.keyboard.press("Enter")
    page.wait_for_selector(BUSY)
    page.locator('[data-opens="proofs"]').click()
    page.locator("[data-compare-proof]").click()
    page.locator("#proofs [data-close]").click()
    at_rest(page)
    take(page, "split")
    view(page, "change")
    at_rest(page)
    take(page, "change")
    view(page, "finished")
    page.locator("#stage").focus()
    page.keyboard.press("k")
    page.get_by_text("found", exact=False).first.wait_for()
    page.wait_for_timeout(4000)
    page.locator("[data-finding]").first.click()
    at_rest(page)
    take(page, "checks")
    sheet = page.url.split("?")[0] + "work-sheet"
    page.goto(sheet)
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / "work-sheet.png")


def shelf(page: Page) -> None:
    """Plates gathered in a shoot, some marked and chosen; and the kits."""
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.wait_for_selector("body[data-ready]")
    pictures = page.locator(".plate-card .picture")
    pictures.nth(0).click(modifiers=["Control"])
    pictures.nth(7).click(modifiers=["Shift"])
    page.fill("#new-shoot input", "Spring catalogue")
    page.select_option("#chosen-into", "new")
    page.keyboard.press("Enter")
    page.wait_for_selector(".shoot-name")
    for count, mark in ((3, "4"), (2, "1")):
        page.keyboard.press("Escape")
        for i in range(count):
            pictures.nth(i * 2 if mark == "4" else 2 * i + 1).click(modifiers=["Control"])
        page.locator(f'#chosen-marks [data-mark="{mark}"]').click()
        page.wait_for_timeout(400)
    page.mouse.move(640, 790)
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "shelf.png")
    page.goto(f"http://127.0.0.1:{PORT}/kits")
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "kits.png")


def run(page: Page) -> None:
    """A kit laid on a shoot."""
    page.goto(f"http://127.0.0.1:{PORT}/?shoot=1&order=name")
    page.wait_for_selector("body[data-ready]")
    page.locator("[data-choose-all]").click()
    page.locator("[data-chosen-run]").click()
    page.select_option('#run-form [name="kit"]', label="Backdrop evened")
    page.locator('#run-form [name="strength"]').fill("80")
    page.locator('#run-form [type="submit"]').click()
    page.get_by_text("5 of 8").wait_for()
    page.wait_for_load_state("networkidle")
    page.screenshot(path=TARGET / "run.png")


def tour(page: Page) -> None:
    page.add_init_script("localStorage.setItem('glyptic-first-steps', 'true')")
    shelf(page)
    page.goto(f"http://127.0.0.1:{PORT}/")
    page.locator('[aria-label="Work on Vase trio 114"]').first.click()
    page.wait_for_selector("body[data-ready]")
    choose(page, "backdrop")
    leaf(page, "settings")
    page.keyboard.press("2")
    page.wait_for_selector(BUSY)
    page.mouse.move(*stage(page, 0.62, 0.62))
    page.wait_for_selector("#chip:not([hidden])")
    take(page, "bench")
    dim(page)
    view(page, "mask-over")
    take(page, "mask-over")
    choose(page, "shape")
    view(page, "grey-alone")
    page.mouse.move(*stage(page, 0.5, 0.75))
    take(page, "grey-alone")
    view(page, "finished")
    page.locator('[data-opens="add"]').click()
    page.wait_for_load_state("networkidle")
    page.locator('#add section:not(#add-recent) [data-add="split-tone"]').hover()
    page.wait_for_selector("#trying:not([hidden])")
    page.wait_for_timeout(800)
    take(page, "add")
    page.locator("#add [data-close]").click()
    page.keyboard.press("2")
    for place in (0.42, 0.5, 0.55):
        scribble(page, (place, 0.8), (place + 0.05, 0.85))
    page.keyboard.press("Control+z")
    page.wait_for_selector(BUSY)
    curve_and_levels(page)
    page.locator('[data-opens="log"]').click()
    page.wait_for_selector("#log-entries li")
    take(page, "log")
    region(page)
    frame_and_sheet(page)
    looking(page)
    colour(page)
    run(page)


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
