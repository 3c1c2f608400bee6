"""The pages without a browser: headers, tokens, errors as sentences, stale tabs."""

import io
import json
import re
import struct
from urllib.parse import urljoin

import numpy as np
import pytest
from PIL import Image

from glyptic.web.factory import create_app
from tests.formats.test_formats import bomb
from tests.web.conftest import LOOKING, add, post, revision, upload


def test_every_answer_carries_a_strict_policy(client, plate):
    for path in ("/", f"/plates/{plate}/", "/nowhere"):
        policy = client.get(path).headers["Content-Security-Policy"]
        assert "default-src 'none'" in policy and "unsafe" not in policy


@pytest.mark.parametrize("path", ["/", "/plates/1/"])
def test_pages_hold_no_inline_script_or_style(client, plate, path):
    html = client.get(path).get_data(as_text=True)
    assert not re.search(r"<script(?![^>]*src=)", html) and not re.search(r"<style|\sstyle=|\son[a-z]+=", html)


def test_forms_need_their_token(shop, photo):
    client = create_app(shop).test_client()
    answer = upload(client, photo)
    assert answer.status_code == 400 and "reload" in answer.get_json()["message"]
    assert "The shelf is empty" in client.get("/").get_data(as_text=True)


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (b"", "empty"),
        (b"no picture at all", "no JPEG, PNG, raw"),
        (bomb(), "megapixels"),
        (b"\xff\xd8\xff\xe0", "damaged"),
    ],
)
def test_a_bad_upload_gets_a_sentence_and_leaves_the_shelf_alone(client, data, word):
    answer = upload(client, data)
    assert answer.status_code == 422 and word in answer.get_json()["message"]
    assert "The shelf is empty" in client.get("/").get_data(as_text=True)


def test_a_cut_file_too(client, photo):
    assert "damaged" in upload(client, photo[: len(photo) // 2]).get_json()["message"]


def test_names_are_shown_as_text(client, photo):
    upload(client, photo, "<script>alert(1)</script>.png")
    html = client.get("/").get_data(as_text=True)
    assert "<script>alert" not in html


def test_shelf_deeds(client, plate):
    assert "Second" in client.post(f"/plates/{plate}/name", data={"name": "Second"}).get_data(as_text=True)
    assert client.post(f"/plates/{plate}/name", data={"name": " "}).status_code == 422
    assert "Second copy" in client.post(f"/plates/{plate}/copy").get_data(as_text=True)
    assert "Removed plates" in client.post(f"/plates/{plate}/remove").get_data(as_text=True)
    assert client.get(f"/plates/{plate}/").status_code == 404
    client.post(f"/plates/{plate}/put-back")
    assert client.get(f"/plates/{plate}/").status_code == 200


def test_adding_editing_undoing(client, plate):
    state = add(client, plate).get_json()
    assert state["undo"] and "Exposure" in state["html"]["strip"] and state["keys"]
    body = {"revision": state["revision"], "edit": "set", "looking": LOOKING}
    arguments = {"layer": state["chosen"], "field": "settings.stops", "value": 1}
    changed = post(client, f"/plates/{plate}/edits", **body, arguments=arguments).get_json()
    assert changed["keys"] != state["keys"]
    undone = post(client, f"/plates/{plate}/undo", revision=changed["revision"], looking=LOOKING).get_json()
    assert undone["keys"] == state["keys"] and undone["redo"]


def test_a_draft_shows_and_keeps_nothing(client, plate):
    state = add(client, plate).get_json()
    arguments = {"layer": state["chosen"], "field": "settings.stops", "value": 1}
    body = {"revision": state["revision"], "edit": "set", "arguments": arguments, "looking": LOOKING}
    exact = post(client, f"/plates/{plate}/drafts", **body, exact=True).get_json()
    assert exact["keys"] != state["keys"]
    head, raw = draft_of(client, plate, body)
    _, _, width, height = head["rect"]
    near = np.frombuffer(raw, np.uint8).reshape(height, width, 4)
    head, packed = draft_of(client, plate, body, REMOTE_ADDR="192.0.2.7")
    far = Image.open(io.BytesIO(packed))
    assert far.size == (width, height) and far.format == "JPEG" and "raw" not in head
    assert revision(client, plate) == state["revision"]
    tiles = {tuple(place): client.get(f"/pixels/{key}.rgba").data for *place, key in exact["keys"]}
    first = np.frombuffer(tiles[0, 0], np.uint8).reshape(-1, min(256, width), 4)
    assert np.array_equal(near[: len(first), : first.shape[1]], first), "on this machine they are what will be there"
    seen = np.asarray(far)[: len(first), : first.shape[1]].astype(int)
    assert np.abs(seen - first[:, :, :3]).mean() < 8


def draft_of(client, plate, body, **environ):
    """The head and the content of what an edit would show."""
    answer = client.post(f"/plates/{plate}/drafts", json=body, environ_overrides=environ).data
    length, *_ = struct.unpack("<I", answer[:4])
    return json.loads(answer[4 : 4 + length]), answer[4 + length :]


def test_keys_tell_where_undo_and_redo_lead(client, plate):
    start = post(client, f"/plates/{plate}/state", looking=LOOKING).get_json()
    state = add(client, plate).get_json()
    assert state["undo"] == start["root"] and state["redo"] is None
    undone = post(client, f"/plates/{plate}/undo", revision=state["revision"], looking=LOOKING).get_json()
    assert (undone["root"], undone["redo"]) == (start["root"], state["root"])


def test_a_tile_nobody_waits_for_is_not_made(client, plate, shop):
    [*_, (_, _, key)] = add(client, plate).get_json()["keys"]
    before = dict(shop.tiles.counts)
    answer = client.get(f"/pixels/{key}.rgba", environ_overrides={"waitress.client_disconnected": lambda: True})
    assert answer.status_code == 499 and dict(shop.tiles.counts) == before


def test_a_stale_tab_is_brought_up_to_date(client, plate):
    old = revision(client, plate)
    newer = add(client, plate).get_json()
    answer = post(client, f"/plates/{plate}/layers", revision=old, kind="levels", start="open", looking=LOOKING)
    state = answer.get_json()
    assert answer.status_code == 409 and "nothing was lost" in state["message"]
    assert state["revision"] == newer["revision"] and "Exposure" in state["html"]["strip"]


def test_a_stroke_from_a_stale_tab_is_kept(client, plate):
    grey = add(client, plate, "grey").get_json()["chosen"]
    add(client, plate)
    stroke = {"to": 1, "size": 30, "hardness": 0, "opacity": 1, "flow": 1, "points": [[50, 50], [90, 90]]}
    state = post(client, f"/plates/{plate}/strokes/keep", layer=grey, target="grey", stroke=stroke, looking=LOOKING)
    assert state.status_code == 200 and "Exposure" in state.get_json()["html"]["strip"]


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("edits", {}), ("edits", {"revision": "x"}), ("edits", {"revision": 1, "edit": 5}), ("keys", {}),
        ("keys", {"looking": {**LOOKING, "level": 99}}), ("keys", {"looking": {**LOOKING, "view": "sideways"}}),
        ("keys", {"looking": {**LOOKING, "rect": [0, 0]}}), ("choose", {}), ("go", {"to": 10**9}), ("layers", {"kind": "x"}),
        ("strokes/abc/points", {"points": []}), ("strokes/abc/points", {"points": [[0, 0]], "from": 3, "looking": LOOKING}),
        ("strokes/keep", {"stroke": None}),
    ],
)  # fmt: skip
def test_nonsense_gets_a_sentence(client, plate, path, body):
    answer = post(client, f"/plates/{plate}/{path}", **body)
    assert 400 <= answer.status_code < 500 and len(answer.get_json()["message"]) > 10


@pytest.mark.parametrize(
    "path", ["/pixels/00.rgba", "/pixels/zz.jpg", "/plates/99/", "/exports/none", "/plates/small/zz.jpg"]
)
def test_what_is_not_there_is_told(client, path):
    answer = client.get(path, headers={"Accept": "application/json"})
    assert answer.status_code == 404 and answer.get_json()["message"].endswith(".")


def test_a_fault_of_ours_is_owned_without_a_trace(client, plate, monkeypatch):
    monkeypatch.setattr("glyptic.web.bench.measure", lambda *a: 1 / 0)
    answer = client.get(f"/plates/{plate}/measures", headers={"Accept": "application/json"})
    assert answer.status_code == 500 and "inside Glyptic" in answer.get_json()["message"]


def test_tiles_are_immutable(client, plate):
    [(_, _, key), *_] = post(client, f"/plates/{plate}/keys", looking=LOOKING).get_json()["keys"]
    answer = client.get(f"/pixels/{key}.rgba")
    assert "immutable" in answer.headers["Cache-Control"] and len(answer.data) == 256 * 200 * 4


def test_tiles_asked_for_together_come_one_after_the_other(client, plate):
    keys = [key for *_, key in post(client, f"/plates/{plate}/keys", looking=LOOKING).get_json()["keys"]]
    alone = [client.get(f"/pixels/{key}.rgba").data for key in keys]
    answer = client.get(f"/pixels/{'+'.join(keys)}.rgba")
    assert len(keys) > 1 and answer.data == b"".join(alone) and "immutable" in answer.headers["Cache-Control"]
    assert client.get(f"/pixels/{keys[0]}+00.rgba").status_code == 404
    assert client.get(f"/pixels/{'+'.join(keys[:1] * 18)}.rgba").status_code == 404


def test_the_bench_names_every_module_it_needs_and_none_is_asked_for_twice(client, plate):
    html = client.get(f"/plates/{plate}/").get_data(as_text=True)
    named = set(re.findall(r'rel="modulepreload" href="([^"]+)"', html))
    for path in named:
        answer = client.get(path)
        assert answer.status_code == 200 and "max-age=31536000" in answer.headers["Cache-Control"]
        for near in re.findall(r'from "(\.[^"]+)";|^import "(\.[^"]+)";', answer.get_data(as_text=True), re.MULTILINE):
            assert urljoin(path, "".join(near)) in named


def test_export_by_the_form(client, plate):
    assert client.post(f"/plates/{plate}/exports", data={"format": "jpeg", "depth": "16"}).status_code == 400
    html = client.post(f"/plates/{plate}/exports", data={"format": "png", "depth": "8"}).get_data(as_text=True)
    assert "Writing" in html or "Waiting" in html or "Ready" in html


def test_another_host_name_is_refused(shop):
    client = create_app(shop, ["127.0.0.1"]).test_client()
    assert client.get("/", headers={"Host": "127.0.0.1:8765"}).status_code == 200
    assert client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400


def test_the_chip_tells_what_a_full_stroke_would_leave(client, plate):
    state = add(client, plate, "grey").get_json()
    place = f"/plates/{plate}/spot?x=100&y=70&level=0"
    plain = client.get(place).get_json()
    lighter = client.get(f"{place}&target=grey&to=1&opacity=0.5").get_json()
    assert plain["then"] is None and sum(lighter["then"]) > sum(lighter["after"]) == sum(plain["after"])
    assert revision(client, plate) == state["revision"]


def test_the_secret_is_for_its_owner_only(client, shop):
    assert (shop.store.folder / "secret").stat().st_mode & 0o077 == 0
