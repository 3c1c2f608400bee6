"""What is looked for in masks: regions, snapping, gaps and halos as the page asks for them; what bad questions get."""

import io
import json

import numpy as np
import pytest

from tests.conftest import png_bytes
from tests.web.conftest import LOOKING, add, post, revision, upload

DISC = ((200, 150), 80)
SEED = {"points": [[180, 150], [220, 160]], "size": 8, "belongs": True}


@pytest.fixture
def photo():
    """A bright disc on a dark ground."""
    y, x = np.mgrid[0:300, 0:400]
    inside = np.hypot(x - DISC[0][0], y - DISC[0][1]) < DISC[1]
    rng = np.random.default_rng(1)
    light = np.where(inside, 180, 60)[..., None] + rng.normal(0, 2, (300, 400, 3))
    return png_bytes(light.clip(0, 255).astype(np.uint8))


@pytest.fixture
def layer(client, plate):
    return add(client, plate, "exposure").get_json()["chosen"]


def ask(client, plate, path, **body):
    return post(client, f"/plates/{plate}/areas/{path}", revision=revision(client, plate), looking=LOOKING, **body)


def shown(client, plate):
    return client.get(f"/plates/{plate}/measures").get_json()["shown"]


def paint(client, plate, layer, *strokes):
    for points, size, to in strokes:
        stroke = {"to": to, "size": size, "hardness": 1, "opacity": 1, "flow": 1, "points": points}
        post(client, f"/plates/{plate}/strokes/keep", layer=layer, target="mask", stroke=stroke, looking=LOOKING)


def test_a_region_is_found_kept_as_one_step_and_found_anew(client, plate, layer):
    before = revision(client, plate)
    answer = ask(client, plate, "region", layer=layer, part=None, seeds=[SEED])
    assert answer.status_code == 200 and answer.get_json()["revision"] == before + 1
    assert shown(client, plate) == pytest.approx(np.pi * DISC[1] ** 2 / (400 * 300), rel=0.03)
    assert [one["seeds"] for one in answer.get_json()["regions"]] == [[SEED]]
    away = {"points": [[10, 10]], "size": 8, "belongs": True}
    ask(client, plate, "region", layer=layer, part=0, seeds=[SEED, away])
    assert shown(client, plate) > 0.98
    post(client, f"/plates/{plate}/undo", revision=revision(client, plate), looking=LOOKING)
    assert shown(client, plate) < 0.2


def test_the_backdrop_in_one_press(client, plate, layer):
    assert ask(client, plate, "region", layer=layer, part=None, begin="backdrop").status_code == 200
    assert shown(client, plate) == pytest.approx(1 - np.pi * DISC[1] ** 2 / (400 * 300), rel=0.03)


def test_gaps_are_told_and_mended_one_by_one_or_all(client, plate, layer):
    paint(
        client, plate, layer, ([[200, 150]], 140, 1), ([[180, 150]], 10, 0), ([[220, 150]], 16, 0), ([[30, 30]], 12, 1)
    )
    found = ask(client, plate, "gaps", layer=layer, across=40).get_json()["places"]
    assert [(place["kind"], round(np.sqrt(place["pixels"] * 4 / np.pi))) for place in found] == [
        ("gap", 16),
        ("gap", 10),
        ("spill", 12),
    ]
    assert ask(client, plate, "mend", layer=layer, across=40, kind="gap", at=found[1]["at"]).status_code == 200
    assert len(ask(client, plate, "gaps", layer=layer, across=40).get_json()["places"]) == 2
    assert ask(client, plate, "mend", layer=layer, across=40, kind="gap", at=[-5, 1e9]).status_code == 422
    for kind in ("gap", "spill"):
        ask(client, plate, "mend", layer=layer, across=40, kind=kind, at=None)
    assert ask(client, plate, "gaps", layer=layer, across=40).get_json()["places"] == []
    again = ask(client, plate, "mend", layer=layer, across=40, kind="gap", at=None)
    assert again.status_code == 422 and "Nothing was changed" in again.get_json()["message"]


def test_a_border_is_snapped_and_its_halo_is_gone(client, plate, layer):
    paint(client, plate, layer, ([[200, 150]], 174, 1))
    assert [p["kind"] for p in ask(client, plate, "halos", layer=layer).get_json()["places"]] == ["over"]
    assert ask(client, plate, "snap", layer=layer, width=14).status_code == 200
    assert ask(client, plate, "halos", layer=layer).get_json()["places"] == []
    assert shown(client, plate) == pytest.approx(np.pi * DISC[1] ** 2 / (400 * 300), rel=0.02)


@pytest.mark.parametrize(("path", "body", "says"), [
    ("region", {"part": None, "seeds": []}, "must hold a scribble"),
    ("region", {"part": None, "seeds": [{**SEED, "belongs": False}]}, "must hold a scribble"),
    ("region", {"part": None, "seeds": [{"points": [["a", 1]], "size": 1}]}, "Points must be a number"),
    ("region", {"part": None, "seeds": [{**SEED, "size": -1}]}, "Size must be above 0"),
    ("region", {"part": None, "seeds": [SEED], "edge": 7}, "must be between 0 % and 100 %; it was 700 %"),
    ("region", {"part": 4, "seeds": [SEED]}, "is no region any more"),
    ("region", {"part": None, "begin": "horizon"}, "Begins with must be one of"),
    ("snap", {"width": 9}, "is not there or not in use"),
    ("gaps", {"across": 9}, "is not there or not in use"),
    ("halos", {}, "is not there or not in use"),
    ("mend", {"across": 9, "kind": "gap", "at": [1]}, "At must be [x, y]"),
])  # fmt: skip
def test_bad_questions_get_a_sentence_and_change_nothing(client, plate, layer, path, body, says):
    before = revision(client, plate)
    answer = ask(client, plate, path, layer=layer, **body)
    assert answer.status_code == 422 and says in answer.get_json()["message"]
    assert revision(client, plate) == before


@pytest.mark.parametrize(
    ("path", "body"),
    [
        ("snap", {"width": 0}),
        ("snap", {"width": 1e9}),
        ("gaps", {"across": 0}),
        ("mend", {"across": 9, "kind": "hole"}),
    ],
)
def test_measures_out_of_range_are_refused(client, plate, layer, path, body):
    paint(client, plate, layer, ([[200, 150]], 174, 1))
    assert ask(client, plate, path, layer=layer, **body).status_code == 422


def test_a_question_on_an_old_state_is_told_so(client, plate, layer):
    old = revision(client, plate)
    ask(client, plate, "region", layer=layer, part=None, seeds=[SEED])
    answer = post(
        client, f"/plates/{plate}/areas/region", revision=old, layer=layer, part=None, seeds=[SEED], looking=LOOKING
    )
    assert answer.status_code == 409 and answer.get_json()["revision"] == old + 1


def test_the_hatch_over_a_mask_is_checked(client, plate):
    looking = {**LOOKING, "view": "mask-over"}
    for hatch, status in (([1, 0, 0, 0.5], 200), ([1, 0, 0], 422), ([2, 0, 0, 1], 422), ("red", 422)):
        assert post(client, f"/plates/{plate}/keys", looking={**looking, "hatch": hatch}).status_code == status


@pytest.mark.parametrize(("codes", "status", "says"), [
    (np.full((300, 400, 3), 128, np.uint8), 200, None), (np.full((30, 40, 3), 128, np.uint8), 422, "must measure 400 × 300"),
    (np.tile(np.uint8([200, 10, 10]), (300, 400, 1)), 422, "must be grey"),
])  # fmt: skip
def test_a_grey_file_of_the_plates_size_becomes_a_part(client, plate, layer, codes, status, says):
    form = {
        "picture": (io.BytesIO(png_bytes(codes)), "Cut-out.png"),
        "request": json.dumps({"revision": revision(client, plate), "layer": layer, "op": "show", "looking": LOOKING}),
    }
    answer = client.post(f"/plates/{plate}/areas/picture", data=form, headers={"Accept": "application/json"})
    assert answer.status_code == status
    if says:
        assert says in answer.get_json()["message"] and shown(client, plate) is None
    else:
        assert shown(client, plate) == pytest.approx(0.5, abs=0.01)
    assert (
        client.post(f"/plates/{plate}/areas/picture", data={}, headers={"Accept": "application/json"}).status_code
        == 422
    )


def test_settings_are_a_page(client, photo):
    assert b"practice pen" in client.get("/settings").data and upload(client, photo).status_code == 200
