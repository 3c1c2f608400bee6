"""Nothing that a checker of accessibility finds, on any screen in either look; and the whole path by keyboard alone."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser
AXE = (Path(__file__).resolve().parents[2] / "vendor/node_modules/axe-core/axe.min.js").read_text()
RUN = """async () => {
    const found = await axe.run(document, {resultTypes: ['violations']});
    return found.violations.map((one) => `${one.id} (${one.impact}): ${one.nodes.map((node) => node.target.join(' ')).slice(0, 4).join(' | ')}`);
}"""


def findings(page, where):
    """What is found in the light look and in the dim one."""
    if not page.evaluate("typeof axe === 'object'"):
        page.evaluate(AXE)
    found = []
    for look in ("light", "dim"):
        page.evaluate("(look) => { document.documentElement.dataset.look = look; }", look)
        found += [f"{where}, {look}: {one}" for one in page.evaluate(RUN)]
    return found


def through_the_frame(bench):
    """The frame in the hand, and the sheet; the frame is gone afterwards."""
    page = bench.page
    page.locator("#stage").focus()
    page.keyboard.press("8")
    bench.settle()
    yield "the frame in the hand"
    page.keyboard.press("Enter")
    page.locator("#frame-border-all").fill("40")
    page.locator("#frame-border-all").press("Enter")
    bench.settle()
    yield "the sheet"
    page.locator("[data-frame-remove]").click()
    bench.settle()


def on_the_bench(bench):
    """Every state of the bench in turn, by its name; what was opened is put away again."""
    page = bench.page
    page.locator(".card .choose").first.click()
    bench.settle()
    yield "the base"
    page.locator("#strip .choose", has_text="Curves").click()
    bench.settle()
    for leaf in ("settings", "mask", "strokes"):
        bench.leaf(leaf)
        bench.settle()
        yield f"curves, {leaf}"
    bench.leaf("mask")
    for fold in ("#mask-tone", "#mask-faults"):
        page.locator(f"{fold} summary").click()
    yield "the mask unfolded"
    page.keyboard.press("2")
    yield "paint in the hand"
    page.locator("#pressure summary").click()
    yield "the pen"
    page.keyboard.press("Escape")
    for kind in ("Levels", "Gradient", "Hue & saturation", "Grey layer", "Group"):
        page.locator("#strip .card", has_text=kind).locator(
            ".choose"
        ).first.click() if kind != "Group" else page.locator("#strip .group > .wrap .choose").click()
        bench.settle()
        bench.leaf("settings")
        yield kind
    yield from through_the_frame(bench)
    for panel in ("add", "log", "export"):
        page.locator(f'[data-opens="{panel}"]').click()
        bench.settle()
        yield panel
        page.keyboard.press("Escape")
    page.keyboard.press("/")
    yield "the search"
    page.keyboard.press("Escape")
    page.locator(".more-menu summary").click()
    yield "the menu"
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    page.keyboard.press(".")
    bench.settle()
    yield "zoomed and turned"
    page.keyboard.press("f")
    page.keyboard.press("0")
    page.mouse.move(*bench.on_stage(0.5, 0.5))
    page.keyboard.press("?")
    yield "the keys"
    page.keyboard.press("Escape")


@pytest.fixture
def furnished(bench):
    """A plate with a layer of each sort of desk, a painted mask and a group."""
    page = bench.page
    for kind in ("levels", "gradient", "hue-saturation", "group", "grey", "curves"):
        page.locator("#strip .choose").first.click()
        bench.settle()
        bench.add(kind, leaf="")
    bench.way("oval")
    bench.drag((0.4, 0.4), (0.5, 0.5))
    bench.way("tone")
    bench.way("paint")
    bench.drag((0.5, 0.5), (0.6, 0.5))
    return bench


def test_the_bench_has_no_findings(furnished):
    assert [one for where in on_the_bench(furnished) for one in findings(furnished.page, where)] == []


@pytest.mark.parametrize("path", ["/", "/settings", "/help/", "/help/?q=mask", "/help/masks.md", "/nowhere"])
def test_other_pages_have_no_findings(page, application, path):
    page.goto(f"{application.url}{path}")
    assert findings(page, path) == []


def test_the_five_minute_path_by_keyboard_alone(bench):
    """Add a closed curve, bend it, draw and paint its mask, look at before, undo: without a pointer and without ever
    losing the focus."""
    page, keys = bench.page, bench.page.keyboard

    def focus():
        return page.evaluate(
            "document.activeElement === document.body ? '' : document.activeElement.id || document.activeElement.tagName"
        )

    def press(*names):
        for name in names:
            keys.press(name)
        bench.settle()
        assert focus(), names

    page.locator("#stage").focus()
    press("a")
    keys.type("curves")
    press("Enter")
    expect(page.locator('#desk[data-kind="curves"]')).to_be_visible()
    page.locator("#curve").focus()
    press("Enter", "ArrowUp", "ArrowUp", "Shift+ArrowUp")
    points = bench.current().stack.layers[1].settings["points"]["rgb"]
    assert len(points) == 3 and points[1][1] > points[1][0]
    press("t")
    assert page.locator("#tab-mask").get_attribute("aria-selected") == "true"
    page.locator('#desk [data-way="tone"]').focus()
    press("Enter")
    assert [part.kind for part in bench.current().stack.layers[1].mask.parts] == ["tone"]
    page.locator("#stage").focus()
    press("6")
    press("ArrowRight", "ArrowRight", "Enter")
    assert bench.current().stack.layers[1].mask.parts[-1].kind == "region"
    press("q")
    assert not bench.current().stack.layers[1].visible
    press("q", "c", "Delete", "Control+z")
    assert len(bench.current().stack.layers) == 3
    lit = bench.spot(0.5, 0.5)
    keys.down("h")
    bench.settle()
    assert page.locator('[data-view="before"]').first.get_attribute("aria-pressed") == "true"
    keys.up("h")
    bench.settle()
    assert bench.spot(0.5, 0.5) == lit


def test_every_declared_key_does_something(bench):
    unbound = bench.page.evaluate(
        "async () => { const address = document.querySelector('script[src*=\"pages/first.js\"]').src; return (await import(address)).bench.keys.unbound; }"
    )
    assert unbound == []


def test_twice_as_large_in_the_browser_is_usable(bench):
    """A browser's zoom of 200 % on a window of 1640 x 1200: nothing is cut off, nothing scrolls sideways."""
    page = bench.page
    page.set_viewport_size({"width": 820, "height": 600})
    bench.settle()
    cut = page.evaluate("""() => [...document.querySelectorAll('.top > *, .top .right > *, #hand > *, .acts button')].filter((one) => {
        const box = one.getBoundingClientRect();
        return box.width && (box.right > innerWidth + 1 || box.left < -1 || box.bottom > innerHeight + 1);
    }).map((one) => one.className || one.id)""")
    assert cut == []
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    box = page.locator("#stage").bounding_box()
    assert box["height"] > 230 and box["width"] > 480
