"""Curves, levels, picks, clipping, groups and the Add sheet, as a retoucher works them."""

import re

import pytest
from playwright.sync_api import expect

pytestmark = pytest.mark.browser


@pytest.fixture
def curve(bench):
    bench.add("curves")
    return Curve(bench)


class Curve:
    """The plot on the desk."""

    def __init__(self, bench) -> None:
        self.bench, self.page = bench, bench.page

    @property
    def points(self):
        return self.bench.current().stack.layers[1].settings["points"]

    def at(self, x, y):
        box = self.page.locator("#curve").bounding_box()
        return box["x"] + x * box["width"], box["y"] + (1 - y) * box["height"]

    def drag(self, start, end, shift=False):
        mouse = self.page.mouse
        if shift:
            self.page.keyboard.down("Shift")
        mouse.move(*self.at(*start))
        mouse.down()
        mouse.move(*self.at(*end), steps=5)
        mouse.up()
        if shift:
            self.page.keyboard.up("Shift")
        self.bench.settle()


def test_several_points_are_chosen_moved_and_removed_together(curve):
    curve.drag((0.3, 0.3), (0.3, 0.4))
    curve.drag((0.6, 0.66), (0.6, 0.7))
    curve.drag((0.2, 0.85), (0.7, 0.35), shift=True)
    expect(curve.page.locator("#point-which")).to_have_text("2 points")
    curve.page.keyboard.press("Shift+ArrowUp")
    curve.bench.settle()
    moved = curve.points["rgb"]
    assert [y for _, y in moved[1:3]] == pytest.approx([0.45, 0.75], abs=0.02)
    curve.drag(moved[1], (moved[1][0] + 0.05, moved[1][1] - 0.1))
    again = curve.points["rgb"]
    assert again[2][1] == pytest.approx(moved[2][1] - 0.1, abs=0.02) and again[1][0] > moved[1][0] + 0.03
    curve.page.keyboard.press("Delete")
    curve.bench.settle()
    assert curve.points["rgb"] == ((0, 0), (1, 1))


def test_a_flat_stretch_is_marked_with_its_share_and_smoothed_by_one_press(curve):
    page = curve.page
    curve.drag((0.3, 0.3), (0.3, 0.5))
    curve.drag((0.7, 0.75), (0.7, 0.51))
    told = page.locator("#curve-faults li")
    expect(told).to_contain_text(re.compile(r"Nearly flat from \d+ to \d+ %: \d+ % of the pixels"))
    assert page.locator("#curve .faults rect.flat").count() == 1
    told.get_by_role("button", name="Smooth").click()
    expect(told).to_have_count(0)
    curve.bench.settle()
    assert curve.points["rgb"][2][1] - curve.points["rgb"][1][1] > 0.05


def test_a_shape_to_begin_with_stays_adjustable(curve):
    curve.page.select_option("#curve-shape", label="Cross-coloured")
    curve.bench.settle()
    assert len(curve.points["blue"]) == 3 and curve.points["rgb"] == ((0, 0), (1, 1))
    curve.page.click('[data-tab="blue"]')
    expect(curve.page.locator("#curve .up")).to_have_text("blue")
    expect(curve.page.locator("#curve .down")).to_have_text("yellow")
    curve.drag((0.5, 0.5), (0.5, 0.6))
    assert curve.points["blue"][1][1] == pytest.approx(0.6, abs=0.02)


def test_the_hand_on_the_picture_shows_and_moves_the_tone(curve):
    page, bench = curve.page, curve.bench
    page.click('#desk [data-pick="tab"]')
    expect(page.locator("#does")).to_contain_text("Hand on picture")
    before = bench.spot(0.5, 0.5)
    page.mouse.move(*bench.on_stage(0.5, 0.5))
    expect(page.locator("#curve .spots circle")).to_have_count(4)
    page.mouse.down()
    x, y = bench.on_stage(0.5, 0.5)
    page.mouse.move(x, y - 40, steps=4)
    bench.settle()
    assert bench.spot(0.5, 0.5)[1] > before[1] + 10
    page.mouse.up()
    bench.settle()
    [_, (_, raised), _] = curve.points["rgb"]
    assert raised > curve.points["rgb"][1][0] + 0.1
    page.keyboard.press("Control+z")
    bench.settle()
    assert bench.spot(0.5, 0.5) == before


def test_levels_show_only_what_clips_while_an_end_is_dragged(bench):
    page = bench.page
    bench.add("levels")
    handle = page.locator('[data-handle="white"]').bounding_box()
    x, y = handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] - 6
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 130, y, steps=6)
    bench.settle()
    while_dragged = {tuple(bench.spot(0.1 + 0.05 * i, 0.5)) for i in range(16)}
    between = [c for c in while_dragged if any(min(abs(v - end) for end in (0, 128, 255)) >= 24 for v in c)]
    assert len(between) <= 2, "only where a quick picture is enlarged across a border may there be anything between"
    page.mouse.up()
    bench.settle()
    ends = bench.current().stack.layers[1].settings["rgb"]
    assert 0.4 < ends["white"] < 0.7
    expect(page.locator("#strip [data-clips].clips")).to_have_count(1)
    page.locator('[data-handle="white"]').focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowRight")
        bench.settle()
    assert bench.current().stack.layers[1].settings["rgb"]["white"] == pytest.approx(ends["white"] + 0.04, abs=1e-3)
    page.get_by_role("button", name="Auto").click()
    bench.settle()
    pulled_in = bench.current().stack.layers[1].settings["rgb"]
    assert pulled_in["black"] > 0 and pulled_in["white"] != pytest.approx(ends["white"] + 0.04, abs=1e-2)
    page.locator('[data-resets="settings.rgb"]').click()
    bench.settle()
    assert bench.current().stack.layers[1].settings["rgb"]["white"] == 1


def test_a_grey_is_picked_in_the_picture(bench):
    page = bench.page
    bench.add("white-balance")
    page.get_by_role("button", name="Pick a grey").click()
    page.mouse.click(*bench.on_stage(0.5, 0.5))
    bench.settle()
    picked = bench.spot(0.5, 0.5)
    assert max(picked) - min(picked) <= 6
    revision = bench.current().revision
    page.locator("#stage").focus()
    for _ in range(8):
        page.keyboard.press("ArrowLeft")
    page.keyboard.press("Enter")
    bench.settle()
    assert bench.current().revision == revision + 1
    page.keyboard.press("1")
    bench.add("exposure")
    expect(page.locator('[data-hand="pick"]')).to_be_hidden()


def test_the_hue_ring_is_worked_by_hand_and_by_key(bench):
    page = bench.page
    bench.add("colour-families")
    ring = page.locator("[data-ring]").bounding_box()
    page.mouse.click(ring["x"] + ring["width"] / 2, ring["y"] + ring["height"] * 0.15)
    bench.settle()
    assert bench.current().stack.layers[1].settings["centre"] == pytest.approx(90, abs=3)
    page.locator("[data-ring]").focus()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("Shift+ArrowUp")
    bench.settle()
    settings = bench.current().stack.layers[1].settings
    assert settings["centre"] == pytest.approx(95, abs=3) and settings["width"] == 65


def test_the_clipping_view_and_the_sentence(bench):
    page = bench.page
    bench.add("exposure")
    page.locator('#desk input.number[data-field="settings.stops"]').fill("2")
    page.keyboard.press("Enter")
    bench.settle()
    expect(page.locator("#says-layer")).to_contain_text(
        re.compile(r"stops on average.*ΔE [\d.]+ on average.*clips", re.S)
    )
    page.click('[data-view="clipping"]')
    bench.settle()
    colours = [bench.spot(0.05 * i, 0.5) for i in range(20)]
    assert any(r > b + 60 for r, _, b in colours)


def test_several_cards_are_grouped_folded_and_taken_apart(bench):
    page = bench.page
    for kind in ("exposure", "levels", "curves"):
        bench.add(kind)
    page.locator("#strip [data-choose]").nth(2).click(modifiers=["Control"])
    page.locator("#stage").focus()
    page.keyboard.press("Control+g")
    bench.settle()
    group = bench.current().stack.layers[2]
    assert [layer.kind for layer in group.layers] == ["levels", "curves"]
    page.locator("#strip .group .tag").click()
    expect(page.locator("#strip .group-row")).to_be_hidden()
    page.reload()
    page.wait_for_selector("body[data-ready]")
    bench.settle()
    expect(page.locator("#strip .group-row")).to_be_hidden()
    page.select_option("#f-mode", "isolated")
    bench.settle()
    expect(page.locator("#f-blend")).to_be_visible()
    page.select_option("#f-mode", "through")
    bench.settle()
    page.get_by_role("button", name="Ungroup").click()
    bench.settle()
    assert [layer.kind for layer in bench.current().stack.layers] == ["picture", "exposure", "levels", "curves"]


def test_what_can_be_added_is_searched_tried_and_remembered(bench):
    page = bench.page
    before, revision = bench.spot(0.3, 0.5), bench.current().revision
    page.locator("#stage").focus()
    page.keyboard.press("a")
    expect(page.locator("#add-search")).to_be_focused()
    page.keyboard.type("negative")
    expect(page.locator("[data-add]:visible")).to_have_count(1)
    page.keyboard.press("ArrowDown")
    expect(page.locator("#trying")).to_have_text("Trying Invert")
    bench.settle()
    tried = bench.spot(0.3, 0.5)
    assert abs(tried[0] - (255 - before[0])) < 30
    page.keyboard.press("Escape")
    expect(page.locator("#trying")).to_be_hidden()
    bench.settle()
    assert bench.spot(0.3, 0.5) == before and bench.current().revision == revision
    page.locator("#stage").focus()
    page.keyboard.press("a")
    page.keyboard.type("inv")
    page.keyboard.press("Enter")
    expect(page.locator('#desk[data-kind="invert"]')).to_be_visible()
    page.keyboard.press("a")
    expect(page.locator("#add-recent [data-add]")).to_have_attribute("data-add", "invert")


def test_cards_are_dragged_into_a_group_and_out_and_a_mask_onto_it(bench):
    page = bench.page
    for kind in ("exposure", "levels"):
        bench.add(kind)
    bench.add("group")
    card = page.locator("#strip .card-slot", has_text="Exposure").locator(".card")
    card.drag_to(
        page.locator("#strip .group-row"), source_position={"x": 20, "y": 30}, target_position={"x": 20, "y": 60}
    )
    bench.settle()
    stack = bench.current().stack
    assert [layer.kind for layer in stack.layers] == ["picture", "levels", "group"]
    assert [layer.kind for layer in stack.layers[2].layers] == ["exposure"]
    page.locator("#strip [data-choose]", has_text="Exposure").click()
    bench.settle()
    bench.leaf("mask")
    page.locator('#desk [data-edit="add-mask"][data-start="closed"]').click()
    bench.settle()
    group = stack.layers[2].id
    page.locator("#strip .mask-grip").first.drag_to(page.locator(f'#strip [data-choose="{group}"]'))
    bench.settle()
    moved = bench.current().stack.layers[2]
    assert moved.mask is not None and moved.layers[0].mask is None
    inner = page.locator("#strip .group-row .card-slot .card")
    inner.drag_to(
        page.locator("#strip .card-slot").nth(1), source_position={"x": 20, "y": 30}, target_position={"x": 6, "y": 40}
    )
    bench.settle()
    assert bench.current().stack.layers[-1].layers == ()
