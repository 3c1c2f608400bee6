"""Runs over plates: each step and file once, whatever happens on the way; stopped, gone on with, tried again, undone."""

import errno
import json

import numpy as np
import pytest

from glyptic.actions import made_at_rest, shelve
from glyptic.actions.edit import apply_edit
from glyptic.actions.exact import advance
from glyptic.actions.kits import keeping as kits
from glyptic.actions.looking import Looking
from glyptic.actions.open_picture import open_picture
from glyptic.actions.runs import board as runs
from glyptic.actions.runs import deliveries
from glyptic.actions.runs.foreman import Foreman
from glyptic.actions.runs.kinds import KINDS, deliveries_folder
from glyptic.actions.runs.runners import Here, Processes
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, NotFound
from glyptic.base.rectangles import Rect
from glyptic.document.delivery import DELIVERY
from glyptic.document.kit_making import Keeping
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from glyptic.formats import read_picture
from glyptic.store import Store
from tests.conftest import colourful, png_bytes

DARKER = {"kind": "exposure", "name": "Darker", "settings": {"stops": -0.5}}


@pytest.fixture
def plates(shop):
    return [
        open_picture(shop, png_bytes(np.moveaxis(colourful(90, 60, i) >> 8, 0, 2).astype(np.uint8)), f"plate {i}.png")
        for i in range(4)
    ]


@pytest.fixture
def kit(shop, plates):
    added = apply_edit(shop, plates[0], shop.current(plates[0]).revision, "add-layer", {"layer": DARKER})
    return kits.keep_kit(shop, plates[0], [added.chosen], Keeping("Evening"))


def work_off(shop, **more):
    Foreman(shop, make_runner=lambda shop: Here(), **more).work_off()


def states(shop, run):
    return [(line.name, line.state) for line in runs.lines_of(shop, run)]


def finished(shop, plate):
    return render(shop.plan(shop.current(plate).stack), TileCache(), depth=16).colour


def test_a_kit_run_is_a_step_on_each_plate_and_is_undone_for_one_or_for_all(shop, plates, kit):
    before = [shop.current(plate) for plate in plates]
    run = runs.begin_run(shop, "kit", plates[1:], {"kit": kit, "strength": 0.8})
    assert runs.look_at_run(shop, run).title == "Kit ‘Evening’ at 80 %"
    work_off(shop)
    card = runs.look_at_run(shop, run)
    assert (card.state, card.done, card.waiting, card.failed) == ("ended", 3, 0, 0)
    for plate in plates[1:]:
        current = shop.current(plate)
        assert current.stack.layers[-1].opacity == 0.8 and "Evening" in current.sentence
    later = apply_edit(shop, plates[2], shop.current(plates[2]).revision, "add-layer", {"layer": DARKER})
    lines = runs.lines_of(shop, run)
    runs.undo_items(shop, run, lines[0].id)
    assert shop.current(plates[1]).revision == before[1].revision, "its newest step: undone"
    assert states(shop, run)[0] == ("plate 1", "undone")
    assert runs.undo_items(shop, run) == []
    assert shop.current(plates[3]).revision == before[3].revision
    after = shop.current(plates[2])
    assert after.revision > later.revision and after.sentence == "Kit ‘Evening’ taken out again"
    assert [layer.name for layer in after.stack.layers] == ["Base", "Darker"], "what was done since stays"


def test_nothing_is_done_twice_when_the_server_dies_between_a_step_and_its_note(shop, plates, kit, monkeypatch):
    run = runs.begin_run(shop, "kit", plates, {"kit": kit})

    def dies(*args, **more):
        raise KeyboardInterrupt

    with monkeypatch.context() as patch:
        patch.setattr("glyptic.actions.runs.foreman.keep_outcome", dies)
        with pytest.raises(KeyboardInterrupt):
            work_off(shop)
    revisions = [shop.current(plate).revision for plate in plates]
    again = Workshop(shop.store, limit=shop.limit)
    work_off(again)
    assert runs.look_at_run(again, run).done == len(plates)
    assert again.current(plates[0]).revision == revisions[0], "the step that was kept was not made again"
    assert [len(again.current(plate).stack.layers) for plate in plates] == [3, 2, 2, 2]


def test_a_run_is_stopped_gone_on_with_and_the_failed_ones_are_tried_again(shop, plates, kit):
    shelve.remove(shop, plates[2])
    run = runs.begin_run(shop, "kit", plates, {"kit": kit})
    done = []

    def rest(most):
        done.append(most)
        if len(done) == 2:
            runs.stop_run(shop, run)

    work_off(shop, rest=rest)
    card = runs.look_at_run(shop, run)
    assert (card.state, card.done, card.waiting) == ("stopped", 1, 3)
    runs.go_on_with_run(shop, run)
    work_off(shop)
    card = runs.look_at_run(shop, run)
    assert (card.state, card.done, card.failed) == ("ended", 3, 1)
    [line] = runs.lines_of(shop, run, "failed")
    assert line.name == "plate 2" and "not on the shelf" in line.says
    shelve.put_back(shop, plates[2])
    runs.try_again(shop, run)
    work_off(shop)
    assert runs.look_at_run(shop, run).done == 4


def test_layers_are_copied_from_one_plate_to_the_others(shop, plates, kit):
    run = runs.begin_run(shop, "layers", plates, {"from": plates[0]})
    work_off(shop)
    assert runs.look_at_run(shop, run).count == 3, "not onto itself"
    assert all(shop.current(plate).stack.layers[1].name == "Darker" for plate in plates)
    runs.undo_items(shop, run)
    assert all(len(shop.current(plate).stack.layers) == 1 for plate in plates[1:])
    with pytest.raises(DocumentError, match="has no layers"):
        runs.begin_run(shop, "layers", plates, {"from": plates[1]})


def test_deliveries_are_the_finished_pictures_under_their_names(shop, plates, kit, monkeypatch):
    rows = [
        {"name": "Web", "format": "png", "long_edge": 45, "pattern": "{number} {name}"},
        {"name": "Print", "format": "tif", "depth": "16", "pattern": "{delivery}"},
    ]
    deliveries.keep_deliveries(shop, rows)
    run = runs.begin_run(shop, "deliver", plates[:2], {"deliveries": ["Print", "Web"]})
    work_off(shop)
    assert runs.look_at_run(shop, run).done == 4, runs.lines_of(shop, run)
    folder = deliveries_folder(shop, run)
    found = sorted(str(path.relative_to(folder)) for path in folder.rglob("*.*"))
    assert found == ["Print/Print-2.tif", "Print/Print.tif", "Web/001 plate 0.png", "Web/002 plate 1.png"]
    assert np.array_equal(
        read_picture(folder / "Print/Print.tif", 10**6).codes, np.moveaxis(finished(shop, plates[0]), 2, 0)
    )
    assert read_picture(folder / "Web/001 plate 0.png", 10**6).codes.shape == (3, 30, 45)
    with monkeypatch.context() as patch:
        patch.setattr(runs, "MOST_LISTED", 1)
        assert len(runs.lines_of(shop, run)) == 1 and sorted(runs.files_of(shop, run).values()) == found
    runs.undo_items(shop, run)
    assert not list(folder.rglob("*.*"))


def test_a_delivery_after_a_rest_is_only_encoded(shop, plates, kit, monkeypatch):
    """In a process of its own it takes what was made here; a picture that did not rest, or another one, is made."""
    stack = shop.current(plates[0]).stack
    folder, codes = shop.store.folder, shop.store.folder / "codes.npy"
    web = DELIVERY.parse({"name": "Web", "format": "jpg"}, "web", [])
    assert made_at_rest.written(shop, stack, codes) == "" and not codes.exists()
    plain = deliveries.deliver(deliveries.job_of(shop, stack, web, folder / "plain.jpg"))
    while advance(shop, stack, Looking("finished", "base", 0, Rect(0, 0, 4096, 4096), exact=True))[0]:
        pass
    job = deliveries.job_of(shop, stack, web, folder / "rested.jpg", made_at_rest.written(shop, stack, codes))
    with monkeypatch.context() as patch:
        patch.setattr("glyptic.engine.steps.LayerStep.over", lambda *args: pytest.fail("a layer was laid"))
        assert deliveries.deliver(job).size == plain.size and not codes.exists()
    assert (folder / "rested.jpg").read_bytes() == (folder / "plain.jpg").read_bytes()
    assert deliveries.deliver(job).size == plain.size, "the codes are gone: it is made"


@pytest.mark.parametrize(
    ("row", "field"),
    [
        ({"name": "A", "format": "gif"}, "deliveries[0].format"),
        ({"name": "A", "depth": "16"}, "deliveries[0].depth"),
        ({"name": "A", "pattern": "{wonder}"}, "deliveries[0].pattern"),
        ({"name": "A", "quality": 0}, "deliveries[0].quality"),
        ({"format": "png"}, "deliveries[0].name"),
    ],
)
def test_a_delivery_with_faults_is_refused_by_its_field(shop, row, field):
    with pytest.raises(DocumentError) as refused:
        deliveries.keep_deliveries(shop, [row])
    assert field in [fault.field for fault in refused.value.faults]
    assert [one["name"] for one in deliveries.kept_deliveries(shop)] == ["Web", "Print", "Archive"]


def test_what_cannot_begin_leaves_no_run(shop, plates, kit):
    for kind, settings in (
        ("wonder", {}), ("kit", {"kit": "x"}), ("kit", {"kit": kit, "strength": 2}), ("deliver", {"deliveries": ["No"]}),
    ):  # fmt: skip
        with pytest.raises(DocumentError):
            runs.begin_run(shop, kind, plates, settings)
    with pytest.raises(NotFound):
        runs.begin_run(shop, "kit", plates, {"kit": 99})
    assert runs.list_runs(shop) == []


def test_a_run_goes_on_in_processes_and_after_a_restart(tmp_path, photo):
    store = Store(tmp_path / "data")
    shop = Workshop(store)
    plates = [open_picture(shop, photo, "p.png") for _ in range(3)]
    run = runs.begin_run(shop, "deliver", plates, {"deliveries": ["Web"]})
    store.close()
    store = Store(tmp_path / "data")
    shop = Workshop(store)
    Foreman(shop, make_runner=lambda shop: Processes(1, low=True)).work_off()
    assert runs.look_at_run(shop, run).done == 3
    files = sorted(path.name for path in deliveries_folder(shop, run).iterdir())
    assert files == ["p-2.jpg", "p-3.jpg", "p.jpg"]
    store.close()


def test_what_a_kit_finds_is_looked_for_by_the_runner_and_told(shop):
    y, x = np.mgrid[0:120, 0:160]
    body = np.hypot((x - 80) / 40, (y - 60) / 40) < 1
    plain = np.where(body[..., None], [60, 40, 30], [180, 180, 185]).astype(np.uint8)
    clear = open_picture(shop, png_bytes(plain), "clear.png")
    empty = open_picture(shop, png_bytes(np.full((120, 160, 3), 140, np.uint8)), "empty.png")
    found = {**DARKER, "mask": {"start": "closed", "parts": [{"kind": "region", "found": "backdrop"}]}}
    text = json.dumps({"format": "glyptic-kit", "version": 1, "name": "Back", "size": [160, 120], "layers": [found]})
    [kit] = kits.read_kit_files(shop, {"kit.json": text.encode()})
    assert KINDS["kit"].is_dear(shop, {"kit": kit})
    run = runs.begin_run(shop, "kit", [clear, empty], {"kit": kit})
    work_off(shop)
    one, two = runs.lines_of(shop, run)
    assert (one.state, two.state) == ("done", "done")
    assert "hardly found" not in one.says and "hardly found" in two.says
    assert not one.made.get("look") and two.made["look"]
    done = finished(shop, clear) >> 8
    assert (done[60, 80] == [60, 40, 30]).all() and done[5, 5, 0] < 170


def test_a_full_disk_fails_the_file_it_meets_and_leaves_nothing_of_it(shop, plates, monkeypatch):
    run = runs.begin_run(shop, "deliver", plates[:2], {"deliveries": ["Web"]})

    def full(path, *given, **more):
        if "plate 0" in str(path):
            raise OSError(errno.ENOSPC, "No space left on device")
        return written(path, *given, **more)

    written = deliveries.write_delivery
    with monkeypatch.context() as patch:
        patch.setattr(deliveries, "write_delivery", full)
        work_off(shop)
    assert [line.state for line in runs.lines_of(shop, run)] == ["failed", "done"]
    assert "No space left on device" in runs.lines_of(shop, run, "failed")[0].says
    assert [path.name for path in deliveries_folder(shop, run).iterdir()] == ["plate 1.jpg"]
    runs.try_again(shop, run)
    work_off(shop)
    assert runs.look_at_run(shop, run).done == 2
