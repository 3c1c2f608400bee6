"""Latencies in headless Chromium, against the application in a process of its own: from an event to its pixels."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from statistics import median

from playwright.sync_api import Browser, Page, sync_playwright

from bench.memory import repeated
from bench.reference import SIZES, reference_layers, stack_of
from bench.table import Spread, Table
from glyptic.actions.open_picture import add_plate, keep_asset
from glyptic.actions.settle import settle
from glyptic.actions.workshop import Workshop
from glyptic.document.values import Layer, Stack
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import Output, write_picture
from glyptic.store import Store

FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run", "--disable-sync"]
WIDTH, HEIGHT = SIZES[24]
SECTION = "In headless Chromium, 1280 x 800, 24 megapixels, 12 layers (median / p95)"

WATCH = """() => {
  const canvas = document.querySelector('#canvas');
  const [across, down] = [48, 32];
  const copy = new OffscreenCanvas(across, down).getContext('2d', { willReadFrequently: true });
  copy.imageSmoothingEnabled = false;
  globalThis.seen = () => {
    copy.drawImage(canvas, 0, 0, across, down);
    return copy.getImageData(0, 0, across, down).data.join();
  };
  globalThis.changed = (from) => new Promise((resolve, reject) => {
    const since = performance.now();
    const look = () => {
      if (globalThis.seen() !== from) resolve(performance.now());
      else if (performance.now() - since > 10000) reject(new Error('nothing changed on screen'));
      else requestAnimationFrame(look);
    };
    look();
  });
}"""


def fill(folder: Path) -> tuple[int, int]:
    """A data folder with a plate of twelve layers and one of 3,000 strokes, both settled; their ids."""
    from bench.reference import strokes

    picture = folder / "base.jpg"
    bands = (band >> 8 for band in repeated(WIDTH, HEIGHT))
    write_picture(
        picture, Sheet(WIDTH, HEIGHT, 3, 8), (band.astype("uint8") for band in bands), Output("jpeg"), Metadata()
    )
    shop = Workshop(Store(folder / "shelf"))
    asset = keep_asset(shop, picture.read_bytes(), "base.jpg")
    base = Layer("base", "picture", "Base", source=asset)
    many = [{"id": "g", "kind": "grey", "strokes": strokes(3000, WIDTH, HEIGHT, 1)}]
    numbers = []
    for name, layers in (("Twelve layers", reference_layers(WIDTH, HEIGHT)), ("Many strokes", many)):
        stack = Stack((base, *stack_of(layers).layers[1:]))
        numbers.append(add_plate(shop, name, asset, stack, "Made"))
        settle(shop, stack)
    shop.store.close()
    return numbers[0], numbers[1]


@contextmanager
def served(folder: Path) -> Iterator[tuple[str, float]]:
    """The application over a data folder: its address, and seconds from its start to its first page."""
    import urllib.request

    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    command = [sys.executable, "-m", "glyptic.cli.main", "serve", "--data", str(folder), "--port", str(port)]
    started = time.perf_counter()
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env={**os.environ, "PYTHONUNBUFFERED": "1"})
    try:
        while "http://" not in process.stdout.readline():
            continue
        url = f"http://127.0.0.1:{port}"
        urllib.request.urlopen(url).read()
        yield url, time.perf_counter() - started
    finally:
        process.terminate()
        process.wait()


def settle_page(page: Page) -> None:
    page.wait_for_selector("body:not([data-busy])")


def opened(page: Page, url: str, plate: int) -> tuple[float, float]:
    """Seconds from asking for a plate's bench to its first pixels, and to sharp ones: those of the larger of the two
    mosaics that are filled, the other being the overview, which is made anew a while after."""
    page.add_init_script("""(() => {
      globalThis.marks = { wide: 0 };
      const put = OffscreenCanvasRenderingContext2D.prototype.putImageData;
      OffscreenCanvasRenderingContext2D.prototype.putImageData = function (...all) {
        const marks = globalThis.marks;
        marks.first ??= performance.now();
        marks.wide = Math.max(marks.wide, this.canvas.width);
        if (this.canvas.width === marks.wide) marks.last = performance.now();
        return put.apply(this, all);
      };
    })()""")
    page.goto(f"{url}/plates/{plate}/")
    page.wait_for_selector("body[data-ready]")
    settle_page(page)
    marks = page.evaluate("() => globalThis.marks")
    return marks["first"] / 1000, marks["last"] / 1000


def at(page: Page, x: float, y: float) -> tuple[float, float]:
    box = page.locator("#stage").bounding_box()
    return box["x"] + x * box["width"], box["y"] + y * box["height"]


def choose(page: Page, layer: str) -> None:
    page.locator(f'[data-choose="{layer}"]').click()
    settle_page(page)


def painting(page: Page, table: Table, name: str) -> None:
    """From the points of a pointer event to the frame that shows the pixels that came back: they are drawn as they
    come, so it is the next one."""
    page.evaluate("""() => {
      globalThis.latencies = [];
      globalThis.pending = [];
      const stage = document.querySelector('#stage');
      stage.addEventListener('pointermove', () => globalThis.pending.push(performance.now()), true);
      const send = globalThis.fetch;
      globalThis.fetch = async (url, options) => {
        if (!String(url).endsWith('/points')) return send(url, options);
        const since = globalThis.pending;
        globalThis.pending = [];
        const answer = await send(url, options);
        const bytes = answer.arrayBuffer.bind(answer);
        answer.arrayBuffer = async () => {
          const found = await bytes();
          requestAnimationFrame(() => {
            const now = performance.now();
            for (const start of since) globalThis.latencies.push(now - start);
          });
          return found;
        };
        return answer;
      };
    }""")
    page.keyboard.press("2")
    settle_page(page)
    for stroke in range(4):
        page.mouse.move(*at(page, 0.3, 0.35 + 0.08 * stroke))
        page.mouse.down()
        for step in range(40):
            page.mouse.move(*at(page, 0.3 + 0.008 * step, 0.35 + 0.08 * stroke + 0.001 * step))
            page.evaluate("() => new Promise(requestAnimationFrame)")
        page.mouse.up()
        settle_page(page)
    found = page.evaluate("() => globalThis.latencies")
    table.add(
        SECTION,
        f"pointer event to true pixels while painting, {name}",
        Spread.of(v / 1000 for v in found),
        "33 / 50 ms",
    )
    page.keyboard.press("1")


def to_change(page: Page, act: str, times: int, argument: Callable[[int], object]) -> Spread:
    """Seconds from an event made in the page to other colours on the stage, looked at in a grid of places."""
    took = []
    for n in range(times):
        script = f"""async (value) => {{
          const from = globalThis.seen();
          const start = performance.now();
          {act}
          return (await globalThis.changed(from)) - start;
        }}"""
        took.append(page.evaluate(script, argument(n)) / 1000)
        settle_page(page)
    return Spread.of(took)


def slider(page: Page, table: Table) -> None:
    choose(page, "l3")
    act = """
      const bar = document.querySelector('#desk input.bar[data-field="settings.stops"]');
      bar.value = value;
      bar.dispatchEvent(new Event('input', { bubbles: true }));
    """
    spread = to_change(page, act, 20, lambda n: -3 + 0.3 * n)
    table.add(SECTION, "slider event to pixels (exposure at layer 3, dragged)", spread)


def toggles(page: Page, table: Table) -> None:
    choose(page, "l5")
    page.locator("#stage").focus()
    act = "document.querySelector('#stage').dispatchEvent(new KeyboardEvent('keydown', { key: 'q', bubbles: true }));"
    first = to_change(page, act, 1, lambda n: None)
    to_change(page, act, 1, lambda n: None)
    table.add(SECTION, "toggling a layer to pixels, first time", f"{first.middle:.0f} ms")
    table.add(
        SECTION,
        "toggling a layer to pixels, after that",
        to_change(page, act, 12, lambda n: None),
        "one frame, no request",
    )
    undo = "document.querySelector('#stage').dispatchEvent(new KeyboardEvent('keydown', { key: value, ctrlKey: true, shiftKey: value === 'Z', bubbles: true }));"
    table.add(
        SECTION,
        "undo and redo of a change seen before",
        to_change(page, undo, 8, lambda n: "z" if n % 2 == 0 else "Z"),
        "one frame, no request",
    )


VIEWPORT = {"width": 1280, "height": 800}
STARTS, PAUSE = 5, 2.0
JUST_STARTED = "just after the server's start"
TWELVE, MANY = "twelve layers", "3,000 strokes"


def openings(browser: Browser, table: Table, folder: Path, plates: dict[str, int]) -> None:
    """Opening plates in a browser that has not been here: one just after the server's start, the other when it has
    come to rest, and that once more; then the other way round."""
    starts: list[float] = []
    found: dict[tuple[str, str], list[tuple[float, float]]] = {}
    for names in (list(plates), list(reversed(plates))):
        for _ in range(STARTS):
            with served(folder) as (url, start):
                starts.append(start)
                for name, when in ((names[0], JUST_STARTED), (names[1], "for the first time"), (names[1], "again")):
                    page = browser.new_page(viewport=VIEWPORT)
                    found.setdefault((name, when), []).append(opened(page, url, plates[name]))
                    page.close()
                    if when == JUST_STARTED:
                        time.sleep(PAUSE)
    table.add(
        "First start",
        f"start of an installed server to its first page (median, worst of {len(starts)})",
        _told(starts),
        "2 s",
    )
    for (name, when), pairs in sorted(found.items()):
        first, sharp = (_told([pair[i] for pair in pairs]) for i in (0, 1))
        table.add(SECTION, f"opening {name} {when} (median, worst of {STARTS}): first pixels; sharp", f"{first}; {sharp}",
                  "2 s" if name == MANY else "")  # fmt: skip


def _told(seconds: list[float]) -> str:
    return f"{median(seconds):.2f}, {max(seconds):.2f} s"


def latencies(table: Table, folder: Path) -> None:
    twelve, many = fill(folder)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        browser.new_page().close()
        openings(browser, table, folder, {TWELVE: twelve, MANY: many})
        with served(folder) as (url, _):
            _at_work(browser.new_page(viewport=VIEWPORT), table, url, twelve)
        browser.close()


def _at_work(page: Page, table: Table, url: str, plate: int) -> None:
    opened(page, url, plate)
    page.evaluate(WATCH)
    toggles(page, table)
    slider(page, table)
    choose(page, "l4")
    painting(page, table, "grey layer 4 of 12")
    page.locator("#stage").focus()
    page.keyboard.press("g")
    settle_page(page)
    painting(page, table, "the same at 100 %")
