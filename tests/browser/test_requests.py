"""What the page asks for, and what it no longer asks for."""

import re

import numpy as np
import pytest
from playwright.sync_api import expect

from glyptic.actions.workshop import Workshop
from glyptic.pixels.quantise import to_codes
from glyptic.store import Store

pytestmark = pytest.mark.browser


@pytest.fixture
def asked(bench):
    """The paths asked for, as they go out."""
    paths = []
    bench.page.on("request", lambda request: paths.append(re.sub(r"https?://[^/]+", "", request.url)))
    return paths


def dim(bench, value="0"):
    """A fill of black over everything, at an opacity."""
    bench.add("fill")
    bench.opacity_on_desk().fill(value)
    bench.opacity_on_desk().press("Enter")
    bench.settle()


def test_a_state_seen_before_is_on_screen_before_the_server_answers(bench, asked):
    dim(bench, "100")
    page = bench.page
    page.locator("#stage").focus()
    on = bench.spot(0.5, 0.5)
    page.keyboard.press("q")
    bench.settle()
    off = bench.spot(0.5, 0.5)
    assert on != off
    held = []
    page.route("**/edits", lambda route: held.append(route) or None)
    page.route("**/undo", lambda route: held.append(route) or None)
    shown = off
    for key in ("q", "q", "Control+z"):
        asked.clear()
        with page.expect_request(re.compile("/(edits|undo)$")):
            page.keyboard.press(key)
        shown = off if shown == on else on
        wait_for(bench, shown)
        assert not [path for path in asked if path.startswith("/pixels/")]
        held.pop().continue_()
        bench.settle()
        assert bench.spot(0.5, 0.5) == shown


FRAMES = 300


def wait_for(bench, colour):
    """Look at each frame until the middle of the stage shows a colour."""
    for _ in range(FRAMES):
        if bench.spot(0.5, 0.5) == colour:
            return
        bench.page.evaluate("() => new Promise(requestAnimationFrame)")
    raise AssertionError(f"{bench.spot(0.5, 0.5)} is on screen, not {colour}")


def test_an_edit_is_on_screen_before_it_is_kept(bench):
    """Also one that leads where nobody has been; refused, it is taken back from the screen."""
    page = bench.page
    dim(bench, "100")
    on = bench.spot(0.5, 0.5)
    page.locator("#stage").focus()
    held = []
    page.route("**/edits", lambda route: held.append(route) or None)
    with page.expect_request("**/edits"):
        page.keyboard.press("q")
    for _ in range(FRAMES):
        if bench.spot(0.5, 0.5) != on:
            break
        page.evaluate("() => new Promise(requestAnimationFrame)")
    assert bench.spot(0.5, 0.5) != on and bench.current().stack.layers[-1].visible
    held.pop().fulfill(status=422, body='{"message": "No."}')
    wait_for(bench, on)
    bench.settle()
    assert bench.current().stack.layers[-1].visible


def test_tiles_no_longer_on_screen_are_given_up(bench):
    dim(bench, "100")
    page = bench.page
    page.locator("#stage").focus()
    held = []
    page.route("**/pixels/*.rgba", lambda route: held.append(route) or None)
    with page.expect_request("**/pixels/*.rgba"):
        page.locator('#desk input.bar[data-field="opacity"]').press("ArrowLeft")
    page.locator("#stage").focus()
    with page.expect_event("requestfailed") as failed:
        page.keyboard.press("Control+z")
    assert "/pixels/" in failed.value.url and "ABORTED" in failed.value.failure


def is_exact(answer):
    """Whether an answer is that to a question for the exact pixels of what is dragged."""
    return answer.url.endswith("/drafts") and bool(answer.request.post_data_json.get("exact"))


def test_a_drag_asks_for_whole_pictures_and_tiles_come_when_it_rests(bench, asked):
    dim(bench, "100")
    page = bench.page
    bar = page.locator('#desk input.bar[data-field="opacity"]').bounding_box()
    page.mouse.move(bar["x"] + bar["width"] * 0.99, bar["y"] + bar["height"] / 2)
    asked.clear()
    page.mouse.down()
    for share in (0.8, 0.6, 0.4):
        page.mouse.move(bar["x"] + bar["width"] * share, bar["y"] + bar["height"] / 2)
        with page.expect_response("**/drafts"):
            page.mouse.move(bar["x"] + bar["width"] * (share - 0.1), bar["y"] + bar["height"] / 2)
    with page.expect_response("**/pixels/*.rgba") as pixels, page.expect_response(is_exact) as exact:
        pass
    keys = {key for *_, key in exact.value.json()["keys"]}
    assert set(pixels.value.url.rsplit("/", 1)[1].removesuffix(".rgba").split("+")) <= keys
    assert not [path for path in asked if path.endswith("/edits")]
    page.mouse.up()
    bench.settle()


STORE = """async (address) => {
  const { TileStore } = await import(address);
  Object.defineProperty(navigator, "hardwareConcurrency", { value: 8 });
  const asked = [];
  globalThis.fetch = (path, { signal }) => new Promise((resolve, reject) => {
    const keys = path.match(/pixels\\/(.*)\\.rgba/)[1].split("+");
    asked.push(keys.length);
    signal.addEventListener("abort", () => { asked.push("given up"); reject(signal.reason); });
    const bytes = new Uint8Array(keys.length * 16).map((_, i) => Number(keys[Math.floor(i / 16)]));
    setTimeout(() => resolve(new Response(bytes)));
  });
  const store = new TileStore();
  const want = (from, to) => Array.from({ length: to - from }, (_, i) => store.fetch(String(from + i), 2, 2).then(
    (pixels) => pixels.data[15], (error) => error.name));
  const many = await Promise.all(want(0, 24));
  const again = await Promise.all(want(20, 26));
  const some = want(30, 42);
  await Promise.resolve();
  store.giveUp("30");
  const left = await Promise.all(some);
  const none = want(50, 52);
  await Promise.resolve();
  store.giveUp("50");
  store.giveUp("51");
  await Promise.all(none);
  return { many, again, left, asked };
}"""


def test_tiles_are_asked_for_together_and_given_up_one_by_one(bench):
    page = bench.page
    address = page.eval_on_selector("link[href$='js/canvas/tiles.js']", "link => link.href")
    found = page.evaluate(STORE, address)
    assert found["many"] == list(range(24)) and found["again"] == list(range(20, 26))
    assert found["left"] == ["AbortError", *range(31, 42)]
    assert found["asked"] == [4] * 6 + [1] * 2 + [2] * 6 + [1] * 2 + ["given up"] * 2


def test_a_plate_is_on_screen_before_its_measures_are_asked_for(bench, asked):
    asked.clear()
    bench.page.reload()
    bench.page.wait_for_selector("body[data-ready]")
    bench.settle()
    kinds = [path.split("?")[0].rsplit("/", 1)[-1] for path in asked]
    sharp = max(i for i, path in enumerate(asked[: kinds.index("measures")]) if path.endswith(".rgba"))
    assert kinds.index("keys") < sharp < kinds.index("measures")


def draw(bench):
    """A grey layer with a stroke across it."""
    bench.add("grey")
    bench.page.locator("#stage").focus()
    bench.page.keyboard.press("2")
    mouse = bench.page.mouse
    mouse.move(*bench.on_stage(0.4, 0.4))
    mouse.down()
    mouse.move(*bench.on_stage(0.6, 0.5), steps=6)
    mouse.up()


@pytest.mark.parametrize("status", [500, 507])
def test_a_stroke_that_could_not_be_kept_is_held_and_sent_until_it_is(bench, status):
    """A fault of the server, and a full disk: as with silence, the stroke stays with the page."""
    page, answers = bench.page, [{"status": status, "body": '{"message": "The disk is full."}'}] * 2
    page.route("**/strokes/keep", lambda route: route.fulfill(**answers.pop()) if answers else route.continue_())
    draw(bench)
    expect(page.locator("#kept")).to_have_text("not kept yet")
    expect(page.locator("#says")).to_contain_text("is held here")
    expect(page.locator("#kept")).not_to_have_class("quiet waiting", timeout=20_000)
    bench.settle()
    assert answers == [] and len(bench.current().stack.layers[-1].strokes) == 1


def test_a_stroke_whose_answer_was_lost_is_kept_once(bench):
    page, lost = bench.page, [1]

    def lose(route):
        if lost and lost.pop():
            route.fetch()
            route.abort()
        else:
            route.continue_()

    page.route("**/strokes/keep", lose)
    draw(bench)
    expect(page.locator("#kept")).to_have_text("not kept yet")
    expect(page.locator("#kept")).not_to_have_class("quiet waiting", timeout=20_000)
    bench.settle()
    assert len(bench.current().stack.layers[-1].strokes) == 1


def test_what_a_browser_kept_may_be_damaged(bench):
    """Every module starts all the same, with what it starts with."""
    page = bench.page
    names = ("brush", "pen", "hatch", "used", "folded", "surround", "switches")
    for broken in ("{", "null", "7", '{"mask": 3, "drives": []}', "[[]]"):
        page.evaluate(
            "([names, broken]) => { for (const n of names) localStorage.setItem(`glyptic-${n}`, broken); }",
            [names, broken],
        )
        page.reload()
        page.wait_for_selector("body[data-ready]")
        bench.settle()
        expect(page.locator("#does")).to_contain_text("Moves the picture")


WHEEL = """(turns) => {
  const stage = document.querySelector('#stage');
  const { left, top, width, height } = stage.getBoundingClientRect();
  for (let i = 0; i < turns; i += 1) {
    stage.dispatchEvent(new WheelEvent('wheel', { deltaY: -16, clientX: left + width * 0.4, clientY: top + height / 2, bubbles: true, cancelable: true }));
  }
}"""
ON_SCREEN = """() => {
  const canvas = document.querySelector('#canvas');
  return [canvas.width, canvas.height, [...canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data]];
}"""


def test_zoomed_out_a_pixel_of_the_screen_is_one_that_was_worked_out(bench):
    """At fit and at any other zoom; a zoom under way asks for nothing until it rests."""
    page, posted = bench.page, []
    page.on(
        "request",
        lambda request: posted.append(request.post_data_json["looking"]) if request.url.endswith("/keys") else None,
    )
    bench.add("exposure")
    page.reload()
    page.wait_for_selector("body[data-ready]")
    for turns in (0, 4, 3):
        bench.settle()
        if turns:
            page.wait_for_timeout(700)
            posted.clear()
            page.evaluate(WHEEL, turns)
            assert not posted
            page.wait_for_timeout(300)
            bench.settle()
        width, height, data = page.evaluate(ON_SCREEN)
        screen = np.array(data, np.uint8).reshape(height, width, 4)[:, :, :3]
        looked = posted[0] if turns else None
        level = looked["level"] if looked else -np.log2(min((width - 12) / 1500, (height - 12) / 1000))
        assert 0 < level < 3 and level != int(level)
        stack, shop = bench.current().stack, Workshop(Store(bench.application.folder / "shelf", looked_at=True))
        plan = shop.plan(stack)
        reader = plan.reader(shop.tiles, level)
        picture = to_codes(reader.read(plan.finished, reader.bounds), 8)
        shop.store.close()
        assert lies_in(screen, picture)


def lies_in(screen, picture):
    """Whether the screen shows the picture pixel for pixel, wherever it lies: looked for by a patch of its middle."""
    size = 48
    y, x = screen.shape[0] // 2, screen.shape[1] // 3
    patch = screen[y : y + size, x : x + size]
    first = np.argwhere((picture == patch[0, 0]).all(2))
    return any(np.array_equal(picture[i : i + size, j : j + size], patch) for i, j in first)
