"""How much work a request is: layers evaluated, tiles made, bytes sent, statements to the database."""

import json
import struct

import pytest
from sqlalchemy import event

from glyptic.actions import edit
from glyptic.base.rectangles import Rect
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from tests.conftest import colourful, picture_of, stack_of
from tests.web.conftest import LOOKING, add, post, revision

WIDTH, HEIGHT = 700, 500
RAMP = {"start": "closed", "parts": [{"kind": "ramp", "from": [0, 0], "to": [WIDTH, HEIGHT]}]}


def exposures(count, **changed):
    layers = [
        {"id": f"n{i}", "kind": "exposure", "settings": {"stops": 0.1 * i + 0.1}, "mask": RAMP} for i in range(count)
    ]
    return stack_of(*({**layer, **changed.get(layer["id"], {})} for layer in layers))


def test_a_change_evaluates_the_layers_from_there_up_only():
    picture, cache = picture_of(colourful(WIDTH, HEIGHT)), TileCache()

    def work(stack):
        plan = make_plan(stack, lambda source: picture)
        plan.work_on("n2")
        reader = plan.reader(cache, 0)
        reader.read(plan.finished, reader.bounds)
        return reader.counts

    tiles = 6
    assert work(exposures(12))["tiles"] >= tiles
    after = work(exposures(12, n2={"settings": {"stops": 1}}))
    assert after["steps"] == 10 and after["tiles"] == 0 and after["pixels"] == 10 * WIDTH * HEIGHT


def test_a_blur_is_worked_out_near_what_is_looked_at_only():
    picture, cache = picture_of(colourful(1800, 1800)), TileCache()
    plan = make_plan(
        stack_of(
            {"id": "up", "kind": "exposure", "settings": {"stops": 1}}, {"kind": "blur", "settings": {"sigma": 20}}
        ),
        lambda s: picture,
    )
    reader = plan.reader(cache, 0)
    reader.read(plan.finished, Rect(768, 768, 256, 256))
    assert reader.counts["pixels"] <= (1 + 9) * 256 * 256 + 256 * 256


@pytest.fixture
def statements(shop):
    """The statements sent to the database, newest last."""
    sent = []
    event.listen(shop.store.engine, "before_cursor_execute", lambda *call: sent.append(call[2]))
    return sent


def test_looking_edits_and_strokes_need_few_statements(client, plate, statements):
    grey = add(client, plate, "grey").get_json()
    for _ in range(70):
        stroke = {"to": 1, "size": 30, "hardness": 0, "opacity": 1, "flow": 1, "points": [[50, 50], [90, 90]]}
        body = {"layer": grey["chosen"], "target": "grey", "stroke": stroke}
        statements.clear()
        state = post(client, f"/plates/{plate}/strokes/keep", **body, looking=LOOKING).get_json()
    assert len(statements) <= 24
    statements.clear()
    keys = post(client, f"/plates/{plate}/keys", looking=LOOKING).get_json()["keys"]
    assert len(statements) <= 4
    statements.clear()
    for *_, key in keys:
        assert client.get(f"/pixels/{key}.rgba").status_code == 200
    assert statements == []
    arguments = {"layer": state["chosen"], "field": "opacity", "value": 0.5}
    body = {"revision": state["revision"], "edit": "set", "arguments": arguments, "looking": LOOKING}
    statements.clear()
    post(client, f"/plates/{plate}/drafts", **body)
    assert len(statements) <= 4


def test_an_edit_that_is_shown_before_it_is_kept_is_worked_out_once(client, shop, plate, monkeypatch):
    state = add(client, plate).get_json()
    worked_out, names = edit.worked_out, []
    monkeypatch.setattr(edit, "worked_out", lambda *given: names.append(given[2]) or worked_out(*given))
    body = {
        "revision": state["revision"],
        "edit": "duplicate-layers",
        "arguments": {"layers": [state["chosen"]]},
        "looking": LOOKING,
    }
    tried = post(client, f"/plates/{plate}/tried", **body).get_json()
    assert revision(client, plate) == state["revision"]
    kept = post(client, f"/plates/{plate}/edits", **body, tried=True).get_json()
    assert kept["revision"] > state["revision"] and kept["keys"] == tried["keys"] and names == ["duplicate-layers"]
    late = post(client, f"/plates/{plate}/tried", **body)
    assert late.status_code == 409 and "keys" not in late.get_json()


def test_points_bring_back_the_changed_pixels_and_no_more(client, plate):
    grey = add(client, plate, "grey").get_json()["chosen"]
    head = {"to": 1, "size": 20, "hardness": 0, "opacity": 1, "flow": 1}
    body = {"layer": grey, "target": "grey", "stroke": head, "looking": {**LOOKING, "layer": grey}}
    sent, before = [], 0
    for points in ([[50, 50], [60, 50]], [[64, 50], [70, 50]], [[76, 50]]):
        answer = post(client, f"/plates/{plate}/strokes/1/points", **body, points=points, **{"from": before}).data
        before += len(points)
        (length,) = struct.unpack("<I", answer[:4])
        *_, w, h = json.loads(answer[4 : 4 + length])["rect"]
        assert len(answer) == 4 + length + 4 * w * h
        sent.append(w * h)
    assert all(area <= (20 + 20) * (20 + 6) for area in sent)
