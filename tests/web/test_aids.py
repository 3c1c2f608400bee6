"""What the page asks for beside edits: measures, clipping, mending, auto, previews; and what bad questions get."""

import io

import numpy as np
import pytest
from PIL import Image

from tests.web.conftest import LOOKING, add, post, revision

FLAT = [[0, 0], [0.4, 0.5], [0.7, 0.51], [1, 1]]


def set_points(client, plate, layer, points):
    arguments = {"layer": layer, "field": "settings.points.rgb", "value": points}
    return post(
        client, f"/plates/{plate}/edits", revision=revision(client, plate), edit="set", arguments=arguments,
        looking=LOOKING,
    )  # fmt: skip


@pytest.fixture
def curves(client, plate):
    return add(client, plate, "curves").get_json()["chosen"]


def test_a_flat_curve_is_told_with_its_share_and_mended_in_one_step(client, plate, curves):
    assert set_points(client, plate, curves, FLAT).status_code == 200
    found = client.get(f"/plates/{plate}/measures").get_json()
    [fault] = found["faults"]["rgb"]
    assert fault["kind"] == "flat" and 0.1 < fault["share"] < 0.9
    before = revision(client, plate)
    answer = post(
        client, f"/plates/{plate}/mend", revision=before, layer=curves, channel="rgb", low=fault["low"],
        high=fault["high"], looking=LOOKING,
    )  # fmt: skip
    assert answer.get_json()["revision"] == before + 1
    assert client.get(f"/plates/{plate}/measures").get_json()["faults"]["rgb"] == []


def test_histograms_are_of_what_reaches_the_layer_through_its_mask(client, plate, curves):
    open_count = sum(client.get(f"/plates/{plate}/measures").get_json()["below"]["tone"])
    mask = {"kind": "ramp", "from": [0, 0], "to": [320, 0], "ease": "linear"}
    arguments = {"layer": curves, "part": mask}
    post(client, f"/plates/{plate}/edits", revision=revision(client, plate), edit="add-part", arguments=arguments)
    masked = client.get(f"/plates/{plate}/measures").get_json()
    assert sum(masked["below"]["tone"]) == pytest.approx(open_count / 2, rel=0.02)
    assert sum(masked["above"]["tone"]) == pytest.approx(open_count / 2, rel=0.02)


def test_each_layer_is_told_what_it_newly_clips(client, plate):
    layer = add(client, plate, "levels").get_json()["chosen"]
    assert client.get(f"/plates/{plate}/clips").get_json()["clips"] == {layer: 0}
    arguments = {"layer": layer, "field": "settings.rgb.white", "value": 0.5}
    post(client, f"/plates/{plate}/edits", revision=revision(client, plate), edit="set", arguments=arguments)
    assert 0.2 < client.get(f"/plates/{plate}/clips").get_json()["clips"][layer] < 1


def test_auto_is_a_step_that_stays_editable(client, plate):
    layer = add(client, plate, "levels").get_json()["chosen"]
    for name in ("tone", "each"):
        body = {"revision": revision(client, plate), "layer": layer, "auto": name, "looking": LOOKING}
        answer = post(client, f"/plates/{plate}/auto", **body)
        assert answer.status_code == 200 and answer.get_json()["revision"] > body["revision"]


@pytest.mark.parametrize(
    ("path", "body", "word"),
    [
        ("mend", {"channel": "rgb", "low": 0.1, "high": 0.2, "layer": "gone"}, "no longer there"),
        ("mend", {"channel": "luma", "low": 0.1, "high": 0.2}, "Channel"),
        ("mend", {"channel": "rgb", "low": "x", "high": 0.2}, "Low"),
        ("mend", {"channel": "rgb", "low": 0.1, "high": 1e400}, "High"),
        ("auto", {"auto": "tone"}, "work out"),
    ],
)
def test_bad_questions_get_a_sentence_and_change_nothing(client, plate, curves, path, body, word):
    before = revision(client, plate)
    answer = post(
        client, f"/plates/{plate}/{path}", **{"revision": before, "layer": curves, "looking": LOOKING, **body}
    )
    assert answer.status_code in (404, 422) and word in answer.get_json()["message"]
    assert revision(client, plate) == before


def test_a_stale_mend_is_answered_with_the_current_state(client, plate, curves):
    set_points(client, plate, curves, FLAT)
    body = {"revision": revision(client, plate) - 1, "layer": curves, "channel": "rgb", "low": 0.4, "high": 0.7}
    answer = post(client, f"/plates/{plate}/mend", **body, looking=LOOKING)
    assert answer.status_code == 409 and answer.get_json()["root"]


def test_previews_show_each_kind_on_this_plate(client, plate):
    def picture(kind):
        answer = client.get(f"/plates/{plate}/previews/{kind}.jpg?after=base")
        assert answer.status_code == 200 and answer.mimetype == "image/jpeg"
        return np.asarray(Image.open(io.BytesIO(answer.data)), np.float64)

    plain = picture("group")
    assert np.abs(picture("invert") - plain).mean() > 30
    assert picture("exposure").mean() > plain.mean() + 10
    assert client.get(f"/plates/{plate}/previews/nothing.jpg").status_code == 422
