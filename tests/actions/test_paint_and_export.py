"""Painting as it happens, tiles by key, export: the same pixels whichever way they come."""

import io
from dataclasses import replace
from threading import Event

import numpy as np
import pytest
from PIL import Image

from glyptic.actions import edit, paint, tiles
from glyptic.actions.export import Exports
from glyptic.actions.looking import OWN, Looking
from glyptic.actions.measure import measure, spot, then
from glyptic.actions.open_picture import open_picture
from glyptic.actions.tiles import make_ahead, make_ready, small_picture, tile_keys, tile_pixels
from glyptic.base.errors import DocumentError, NotFound
from glyptic.base.rectangles import Rect
from glyptic.base.threads import allowed
from glyptic.brush.coverage import coverage
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.pool import Ahead, crew
from glyptic.engine.render import render
from glyptic.formats import Metadata, Output
from glyptic.formats.writing import encode_picture

ALL = Rect(0, 0, 4096, 4096)
HEAD = {"to": 1, "size": 50, "hardness": 0.2, "opacity": 0.6, "flow": 0.4, "pressure": {"flow": True}}
PLANE = 320 * 240 * 4
"""Bytes of a plane of the picture."""
POINTS = [[20 + 4 * i, 40 + 30 * (i % 3), 0.2 + 0.01 * i] for i in range(60)]


@pytest.fixture
def plate(shop, photo):
    number = open_picture(shop, photo, "one.png")
    edit.apply_edit(shop, number, shop.current(number).revision, "add-layer", {"layer": {"kind": "grey", "id": "g"}})
    return number


def whole(shop, stack, level=0):
    return render(make_plan(stack, shop.picture), TileCache(), level).colour


@pytest.mark.parametrize("level", [0, 0.6, 1])
@pytest.mark.parametrize("target", ["grey", "mask"])
def test_the_pixels_under_a_stroke_are_those_of_the_kept_stroke(shop, plate, level, target):
    layer = shop.current(plate).chosen
    looking = Looking("finished", layer, level, ALL)
    shown = whole(shop, shop.current(plate).stack, level).copy()
    hand = None
    for start in range(0, len(POINTS), 7):
        batch = POINTS[start : start + 7]
        if hand is None:
            hand = paint.begin(shop, plate, layer, target, {**HEAD, "points": batch})
        else:
            paint.extend(hand, batch)
        rect, pixels = paint.look(shop, hand, looking)
        shown[rect.y : rect.bottom, rect.x : rect.right] = pixels[:, :, :3]
    kept = paint.keep_stroke(shop, plate, layer, target, {**HEAD, "points": POINTS})
    assert np.array_equal(shown, whole(shop, kept.stack, level))


def test_the_strokes_under_the_one_in_the_hand_are_laid_once(shop, plate, monkeypatch):
    layer = shop.current(plate).chosen
    for shift in range(5):
        points = [[x + shift, y, p] for x, y, p in POINTS[:6]]
        paint.keep_stroke(shop, plate, layer, "grey", {**HEAD, "points": points})
    laid = []
    monkeypatch.setattr(
        "glyptic.engine.reader.coverage", lambda stroke, patch: laid.append(1) or coverage(stroke, patch)
    )
    hand = paint.begin(shop, plate, layer, "grey", {**HEAD, "points": POINTS[:2]})
    for n in range(2, 8):
        paint.extend(hand, POINTS[n : n + 1])
        paint.look(shop, hand, Looking("finished", layer, 0, ALL))
    assert len(laid) == 5


def test_an_earlier_state_is_fetched_from_the_deep_store_once():
    asked, tile = [], np.ones((1, 4, 4), np.float32)
    cache = TileCache(deep=lambda key: asked.append(key) or (tile if key == b"kept" else None))
    assert cache.peek(b"kept") is tile and cache.peek(b"kept") is tile and cache.peek(b"not") is None
    assert asked == [b"kept", b"not"]


def test_a_tile_begun_ahead_is_made_once_and_an_older_wish_is_given_up(shop, plate, monkeypatch):
    looking = Looking("finished", shop.current(plate).chosen, 0, ALL)
    made, go_on = [], Event()
    true = tiles.pixels_of
    monkeypatch.setattr(tiles, "pixels_of", lambda *given: made.append(given[-1]) or (go_on.wait(30) and true(*given)))
    before = shop.current(plate).stack
    first = tile_keys(shop, before, looking)
    fill = {"layer": {"kind": "exposure", "id": "f", "settings": {"stops": 1}}}
    edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", fill)
    after = shop.current(plate).stack
    second = tile_keys(shop, after, looking)
    for stack, wanted in ((before, first), (before, first), (after, second)):
        make_ahead(shop, stack, looking, wanted)
    go_on.set()
    seen = [tile_pixels(shop, key) for *_, key in second]
    assert len(made) <= len(second) + allowed() < len(second) + 2 * len(first)
    monkeypatch.undo()
    shop.shown.drop(bytes.fromhex(key) for *_, key in second)
    assert seen == [tile_pixels(shop, key) for *_, key in second]


class AtOnce:
    """Does all that can be made ahead as soon as it is told."""

    def instead(self, work, after=(), later=tuple):
        for one in (*work, *after, *later()):
            one()

    def give_up(self):
        """There is nothing to give up."""


def test_work_ahead_goes_on_until_a_hand_is_at_work():
    ahead, first, then, last, go_on = Ahead(), Event(), Event(), Event(), Event()
    ahead.instead([first.set], [then.set], lambda: [last.set])
    assert first.wait(30) and then.wait(30) and last.wait(30)
    then.clear()
    last.clear()
    ahead.instead([lambda: first.set() or go_on.wait(30)] * allowed(), [then.set], lambda: [last.set])
    ahead.give_up()
    go_on.set()
    with crew() as hands:
        hands.all([lambda: None] * allowed())
    assert not then.is_set() and not last.is_set()


def test_all_that_the_first_frame_of_a_drag_begins_from_is_made_ahead(shop, plate):
    paint.keep_stroke(shop, plate, shop.current(plate).chosen, "grey", {**HEAD, "points": POINTS})
    mask = {"start": "closed", "parts": [{"kind": "paint", "strokes": [{**HEAD, "points": POINTS}]}]}
    for layer in (
        {"kind": "exposure", "mask": mask, "settings": {"stops": 0.5}},
        {"kind": "curves", "mask": mask, "settings": {"points": {"rgb": [[0, 0.1], [1, 1]]}}},
        {"kind": "blur", "settings": {"sigma": 12}},
    ):
        edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": layer})
    stack = shop.current(plate).stack
    moved = stack.layers[2].id
    looking = Looking("finished", moved, 0, ALL)
    shop.ahead = AtOnce()
    make_ahead(shop, stack, looking, tile_keys(shop, stack, looking))
    before = shop.tiles.counts["misses"]
    for stops in (0.7, 0.9):
        change = {"layer": moved, "field": "settings.stops", "value": stops}
        tiles.quick_pixels(shop, edit.try_edit(shop, plate, "set", change), looking)
    assert shop.tiles.counts["misses"] == before


@pytest.fixture
def stacked(shop, plate):
    """A painted grey layer, and over it one that looks around itself; their plate and the grey layer."""
    grey = shop.current(plate).chosen
    paint.keep_stroke(shop, plate, grey, "grey", {**HEAD, "points": POINTS})
    for layer in ({"kind": "exposure", "settings": {"stops": 0.5}}, {"kind": "blur", "settings": {"sigma": 12}}):
        edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": layer})
    return plate, grey


def test_what_may_come_into_sight_later_makes_no_room_for_itself(shop, stacked):
    plate, grey = stacked
    stack, looking = shop.current(plate).stack, Looking("finished", grey, 0, ALL)
    before = shop.tiles.bytes
    later = {key: tile_pixels(shop, key) for *_, key in tile_keys(shop, stack, replace(looking, soon=True))}
    assert shop.tiles.bytes == before and shop.scratch.bytes
    shop.shown.drop(bytes.fromhex(key) for key in later)
    assert later == {key: tile_pixels(shop, key) for *_, key in tile_keys(shop, stack, looking)}
    assert shop.tiles.bytes > before


def test_all_that_the_first_point_of_a_stroke_begins_from_is_made_ready(shop, stacked):
    plate, grey = stacked
    looking = Looking("finished", grey, 0, ALL)
    shop.ahead = AtOnce()
    make_ready(shop, shop.current(plate).stack, looking)
    first = shop.tiles.counts["misses"]
    for start in (20, 60):
        hand = paint.begin(shop, plate, grey, "grey", {**HEAD, "points": [[start, 40]]})
        paint.look(shop, hand, looking)
        if start == 20:
            under, first = shop.tiles.counts["misses"] - first, shop.tiles.counts["misses"]
    assert under == shop.tiles.counts["misses"] - first


@pytest.mark.parametrize(("level", "made"), [(0, False), (1, True)])
def test_switching_the_chosen_layer_finds_its_tiles_made_where_that_takes_little(shop, stacked, level, made):
    plate, grey = stacked
    stack, looking = shop.current(plate).stack, Looking("finished", grey, level, ALL)
    shop.ahead = AtOnce()
    make_ahead(shop, stack, looking, tile_keys(shop, stack, looking))
    current = edit.apply_edit(
        shop, plate, shop.current(plate).revision, "show-layers", {"layers": [grey], "visible": False}
    )
    off = [bytes.fromhex(key) for *_, key in tile_keys(shop, current.stack, looking)]
    assert off and all((shop.shown.peek(key) is not None) is made for key in off)


def test_what_a_full_stroke_would_leave_is_worked_out_where_it_is_asked_for(shop, stacked):
    """Within two codes of how it comes out, the blur over it included; but no tile of that is made for a dab."""
    plate, grey = stacked
    stack, looking = shop.current(plate).stack, Looking("finished", grey, 0, ALL, screen=OWN)
    for *_, key in tile_keys(shop, stack, looking):
        tile_pixels(shop, key)
    before = shop.tiles.bytes
    painted = paint.full_stroke(stack, grey, "grey", 1, 0.8, (100, 60))
    codes, _ = then(shop, stack, painted, grey, 0, 100, 60)
    assert shop.tiles.bytes - before < PLANE
    was, true = (whole(shop, one)[60, 100].astype(int) for one in (stack, painted))
    assert np.abs(true - codes).max() <= 2 < np.abs(true - was).min()


def test_tiles_by_key_are_the_exported_pixels(shop, plate):
    layer = shop.current(plate).chosen
    current = paint.keep_stroke(shop, plate, layer, "grey", {**HEAD, "points": POINTS})
    expected = whole(shop, current.stack)
    for tx, ty, key in tile_keys(shop, current.stack, Looking("finished", layer, 0, ALL)):
        part = expected[ty * 256 : ty * 256 + 256, tx * 256 : tx * 256 + 256]
        got = np.frombuffer(tile_pixels(shop, key), np.uint8).reshape(*part.shape[:2], 4)
        assert np.array_equal(got[:, :, :3], part) and (got[:, :, 3] == 255).all()
        assert Image.open(io.BytesIO(small_picture(shop, key))).size == part.shape[1::-1]


def test_undo_and_toggling_bring_back_the_same_keys(shop, plate):
    looking = Looking("finished", "", 0, ALL)
    before = tile_keys(shop, shop.current(plate).stack, looking)
    paint.keep_stroke(shop, plate, shop.current(plate).chosen, "grey", {**HEAD, "points": POINTS})
    painted = tile_keys(shop, shop.current(plate).stack, looking)
    from glyptic.actions.history import undo

    undone = tile_keys(shop, undo(shop, plate, shop.current(plate).revision).stack, looking)
    assert undone == before and painted != before


@pytest.mark.parametrize(
    "plain", [{}, {**HEAD, "points": []}, {**HEAD, "points": [[0, 0, 5]]}, {**HEAD, "size": -1, "points": [[0, 0]]}]
)
def test_a_broken_stroke_is_refused(shop, plate, plain):
    with pytest.raises(DocumentError):
        paint.begin(shop, plate, shop.current(plate).chosen, "grey", plain)


def test_a_stroke_on_what_cannot_be_painted_is_refused(shop, plate):
    with pytest.raises(DocumentError, match="base"):
        paint.keep_stroke(shop, plate, "base", "mask", {**HEAD, "points": POINTS})
    with pytest.raises(NotFound):
        paint.keep_stroke(shop, plate, "gone", "mask", {**HEAD, "points": POINTS})


def test_a_stroke_far_outside_changes_nothing_and_is_kept(shop, plate):
    layer = shop.current(plate).chosen
    far = {**HEAD, "points": [[-9e5, 9e5], [-9e5 + 10, 9e5]]}
    current = paint.keep_stroke(shop, plate, layer, "grey", far)
    assert len(current.stack.find(layer).strokes) == 1
    assert np.array_equal(whole(shop, current.stack), np.moveaxis(shop.picture(current.asset).colour.full >> 8, 0, 2))


@pytest.mark.parametrize(("name", "depth"), [("png", 8), ("png", 16), ("tiff", 16), ("jpeg", 8)])
def test_an_export_is_what_render_gives(shop, plate, tmp_path, name, depth):
    current = paint.keep_stroke(shop, plate, shop.current(plate).chosen, "grey", {**HEAD, "points": POINTS})
    exports = Exports(tmp_path / "exports")
    job = exports.start(shop, plate, Output(name, depth))
    job.work.result()
    assert (job.state, job.share) == ("done", 1.0)
    rendered = render(make_plan(current.stack, shop.picture), TileCache(), depth=depth)
    assert job.path.read_bytes() == encode_picture(rendered.colour, rendered.alpha, Output(name, depth), Metadata())


def test_an_export_that_is_stopped_leaves_no_file(shop, plate, tmp_path):
    gate = Event()
    exports = Exports(tmp_path / "exports")
    exports._pool.submit(gate.wait)
    job = exports.start(shop, plate, Output("png"))
    job.stop = True
    gate.set()
    job.work.result()
    assert job.state == "stopped" and not job.path.exists()


def test_measures_and_spots(shop, plate):
    layer = shop.current(plate).chosen
    assert measure(shop, shop.current(plate).stack, layer).sentence == "Changes nothing yet."
    current = paint.keep_stroke(shop, plate, layer, "grey", {**HEAD, "points": POINTS})
    found = measure(shop, current.stack, layer)
    assert found.sentence.startswith("Lightens") and found.shown is None
    assert sum(found.base["tone"]) == sum(found.finished["tone"]) > 0
    place = spot(shop, current.stack, layer, 0, 100, 70)
    assert place.tone_after > place.tone_before and spot(shop, current.stack, layer, 0, -1, 5) is None


def test_however_many_exports_are_asked_for_at_once_none_is_lost(shop, plate, tmp_path):
    exports = Exports(tmp_path / "exports")
    jobs = [exports.start(shop, plate, Output("jpeg")) for _ in range(30)]
    for job in jobs:
        job.work.result()
    assert all(exports.find(job.id).state == "done" and job.path.exists() for job in jobs)


def test_finished_files_make_room_for_newer_ones_and_say_so(shop, plate, tmp_path, monkeypatch):
    exports = Exports(tmp_path / "exports", most=1)
    first, waited_for = (exports.start(shop, plate, Output("jpeg")) for _ in range(2))
    for job in (first, waited_for):
        job.work.result()
    first.asked -= 1000
    exports.start(shop, plate, Output("jpeg")).work.result()
    assert not first.path.exists() and "let go" in exports.find(first.id).message
    assert exports.find(waited_for.id).state == "done" and waited_for.path.exists()


@pytest.fixture
def transparent(shop):
    """A plate of one colour, transparent from left to right."""
    codes = np.full((60, 200, 4), (200, 40, 120, 255), np.uint8)
    codes[:, :, 3] = np.linspace(0, 255, 200).astype(np.uint8)
    stream = io.BytesIO()
    Image.fromarray(codes, "RGBA").save(stream, "PNG")
    return open_picture(shop, stream.getvalue(), "cut out.png"), codes


@pytest.mark.parametrize("ground", [(1.0, 1.0, 1.0), (0.2, 0.6, 0.4)])
def test_a_jpeg_of_a_plate_with_alpha_is_laid_over_a_colour(shop, transparent, ground, tmp_path):
    number, codes = transparent
    exports = Exports(tmp_path / "exports")
    job = exports.start(shop, number, Output("jpeg", 8, 100, ground))
    job.work.result()
    written = np.asarray(Image.open(job.path).convert("RGB"), float)
    share = codes[:, :, 3:] / 255
    expected = codes[:, :, :3] * share + np.multiply(ground, 255) * (1 - share)
    assert np.abs(written - expected).max() <= 3
    png = exports.start(shop, number, Output("png", 8))
    png.work.result()
    assert np.array_equal(np.asarray(Image.open(png.path)), codes)


def test_the_bench_shows_what_is_transparent_in_pictures_only(shop, transparent):
    number, codes = transparent
    stack = shop.current(number).stack
    for view, expected in (
        ("finished", codes[:, :, 3]),
        ("before", codes[:, :, 3]),
        ("clipping", np.full((60, 200), 255)),
    ):
        [(_, _, key)] = tile_keys(shop, stack, Looking(view, "base", 0, ALL))
        shown = np.frombuffer(tile_pixels(shop, key), np.uint8).reshape(60, 200, 4)
        assert np.array_equal(shown[:, :, 3], expected), view
