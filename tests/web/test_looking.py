"""Looking back and finding what is wrong, by the routes of the page: checks and their deeds, pins, sheets, the log."""

from __future__ import annotations

import io
import json
import re

import numpy as np
import pytest
from PIL import Image

from glyptic.actions.branches import drawn
from glyptic.checks import CHECKS
from glyptic.document.notes import MOST_PINS
from tests.checks.made import CASES, body, ground, named
from tests.conftest import png_bytes
from tests.web.conftest import LOOKING, post, revision, upload

BY_DEEDS = [case for case in CASES if case.has and not case.missed and case.check in ("halos", "gaps", "curves")]


def edit(client, plate, name, **arguments):
    return post(
        client,
        f"/plates/{plate}/edits",
        revision=revision(client, plate),
        edit=name,
        arguments=arguments,
        looking=LOOKING,
    )


def opened(client, codes, *layers):
    """A plate of made codes with layers, each added at the end."""
    plate = upload(client, png_bytes(np.moveaxis(codes >> 8, 0, 2).astype(np.uint8))).get_json()["plate"]
    for layer in layers:
        answer = edit(client, plate, "add-layer", layer={k: v for k, v in layer.items() if k != "id"}, after=None)
        assert answer.status_code == 200, answer.get_json()
    return plate


def found(client, plate, check):
    return post(client, f"/plates/{plate}/checks/{check}", number="n").get_json()["findings"]


@pytest.mark.parametrize("case", BY_DEEDS, ids=named)
def test_what_a_finding_offers_mends_it(client, case):
    plate = opened(client, case.codes, *case.layers)
    [first, *_] = found(client, plate, case.check)
    mend = first["mends"][0]
    done = post(
        client, f"/plates/{plate}/{mend['path']}", revision=revision(client, plate), looking=LOOKING, **mend["body"]
    )
    assert done.status_code == 200, done.get_json()
    after = found(client, plate, case.check)
    assert max((one["worth"] for one in after), default=0) < first["worth"]


def test_a_finding_stays_left_until_what_it_speaks_of_changes(client):
    case = next(case for case in CASES if case.check == "painting" and case.has)
    plate = opened(client, case.codes, *case.layers)
    [one] = found(client, plate, "painting")
    edit(client, plate, "leave-finding", check="painting", of=one["of"], why="meant so")
    assert [again["why"] for again in found(client, plate, "painting")] == ["meant so"]
    edit(client, plate, "add-layer", layer={"kind": "exposure", "name": "Other"}, after=None)
    assert [again["why"] for again in found(client, plate, "painting")] == ["meant so"]
    edit(client, plate, "set", layer=one["layer"], field="settings.stops", value=0.5)
    assert [again["why"] for again in found(client, plate, "painting")] == [None]


def test_a_threshold_is_changed_kept_and_taken_back(client):
    case = next(case for case in CASES if case.check == "overall" and case.has)
    plate = opened(client, case.codes, *case.layers)
    assert found(client, plate, "overall")
    assert post(client, f"/plates/{plate}/checks/overall/threshold", value=3.5).get_json() == {"value": 3.5}
    assert not found(client, plate, "overall")
    refused = post(client, f"/plates/{plate}/checks/overall/threshold", value=99)
    assert refused.status_code == 422 and "between 0.1 stops and 4 stops" in refused.get_json()["message"]
    assert post(client, f"/plates/{plate}/checks/overall/threshold", value=None).get_json() == {
        "value": CHECKS["overall"].threshold.default
    }
    assert post(client, f"/plates/{plate}/checks/nothing", number="n").status_code == 422


def test_checks_that_were_stopped_end_with_a_sentence(client):
    case = next(case for case in CASES if case.check == "overall" and case.has)
    plate = opened(client, case.codes, *case.layers)
    post(client, f"/plates/{plate}/stop", number="gone")
    assert post(client, f"/plates/{plate}/checks/overall", number="gone").status_code == 409


def test_an_edit_ends_checks_that_are_under_way(shop, photo):
    from glyptic.actions import checking
    from glyptic.actions import edit as edits
    from glyptic.actions.open_picture import open_picture
    from glyptic.base.errors import Stopped

    plate = open_picture(shop, photo, "one.png")
    current = shop.current(plate)
    subject = checking.subject_of(shop, current)
    subject.check()
    edits.apply_edit(shop, plate, current.revision, "add-layer", {"layer": {"kind": "invert"}})
    with pytest.raises(Stopped):
        subject.check()
    checking.subject_of(shop, shop.current(plate)).check()


def test_pins_read_what_comes_out_also_through_a_frame(client):
    plate = opened(client, body(), {"kind": "exposure", "name": "Up", "settings": {"stops": 1}})
    for x in (200.5, 20.5):
        edit(client, plate, "put-pin", pin=None, value={"x": x, "y": 170.5, "neutral": True, "over": 5})
    plain = client.get(f"/plates/{plate}/pins").get_json()["pins"]
    assert plain[0]["tone"] > plain[0]["tone_before"] and "to yellow" in plain[0]["cast"]
    corners = [[100, 50], [400, 50], [400, 300], [100, 300]]
    edit(client, plate, "set-frame", frame={"corners": corners, "size": [300, 250]})
    framed = client.get(f"/plates/{plate}/pins").get_json()["pins"]
    assert framed[0]["codes"] == plain[0]["codes"] and framed[1] is None
    mirrored = [corners[1], corners[0], corners[3], corners[2]]
    edit(client, plate, "set-frame", frame={"corners": mirrored, "size": [300, 250]})
    assert client.get(f"/plates/{plate}/pins").get_json()["pins"][0]["codes"] == plain[0]["codes"]
    for _ in range(MOST_PINS - 2):
        edit(client, plate, "put-pin", pin=None, value={"x": 1, "y": 1})
    assert edit(client, plate, "put-pin", pin=None, value={"x": 1, "y": 1}).status_code == 422


def test_a_plate_without_layers_says_where_to_begin_and_each_offer_answers(client):
    plate = opened(client, ground(low=0.3, high=0.55, tint=(1.0, 0.97, 0.9)))
    offers = client.get(f"/plates/{plate}/begin").data.decode()
    assert "the ends are not used" in offers and "to yellow" in offers
    for raw, path in re.findall(r"data-offer='([^']+)' data-path=\"([^\"]+)\"", offers):
        body_of = json.loads(raw.replace("&#39;", "'").replace("&#34;", '"'))
        answer = post(client, f"/plates/{plate}/{path}", revision=revision(client, plate), looking=LOOKING, **body_of)
        assert answer.status_code == 200
    names = re.findall(r'class="name">([^<]+)', answer.get_json()["html"]["strip"])
    assert names == ["Base", "Ends set", "White balance"]


def test_the_work_sheet_stands_by_itself_and_tells_of_everything(client):
    layers = [
        {
            "kind": "exposure",
            "name": "Up <b> 漢字 🙂 שלום",
            "settings": {"stops": 0.6},
            "mask": {"start": "closed", "parts": [{"kind": "oval", "centre": [200, 170], "radii": [80, 100]}]},
        }
    ]
    plate = opened(client, body(), *layers)
    edit(client, plate, "put-pin", pin=None, value={"x": 200, "y": 170, "name": "Body"})
    post(client, f"/plates/{plate}/proofs", revision=revision(client, plate), name="For the client", note="Δ wanted")
    page = client.get(f"/plates/{plate}/work-sheet")
    text = page.data.decode()
    for words in ("Up &lt;b&gt;", "Lightens", "For the client", "Δ wanted", "Body", "ΔE2000"):
        assert words in text, words
    assert text.count("data:image/jpeg") == 4 and not re.search(r'(src|href)="(?!data:|/plates)', text)
    assert (
        "sha256-" in page.headers["Content-Security-Policy"] and "script" not in page.headers["Content-Security-Policy"]
    )
    pdf = client.get(f"/plates/{plate}/work-sheet.pdf")
    assert pdf.data.startswith(b"%PDF-") and "attachment" in pdf.headers["Content-Disposition"]


def test_the_contact_sheet_shows_the_proofs_that_are_chosen(client, plate):
    made = [
        post(client, f"/plates/{plate}/proofs", revision=revision(client, plate), name=f"№ {i}", note="").get_json()[
            "id"
        ]
        for i in range(3)
    ]
    chosen = ",".join(map(str, made))
    png = client.get(f"/plates/{plate}/proofs/sheet.png?of={chosen}")
    one = client.get(f"/plates/{plate}/proofs/sheet.png?of={made[0]}")
    wide, narrow = (Image.open(io.BytesIO(answer.data)) for answer in (png, one))
    assert wide.width == narrow.width and np.asarray(wide).std() > 5
    assert client.get(f"/plates/{plate}/proofs/sheet.pdf?of={chosen}").data.startswith(b"%PDF-")
    for wrong in ("sheet.png?of=", "sheet.png?of=999999", "sheet.gif?of=1", "sheet.png?of=1;2"):
        assert client.get(f"/plates/{plate}/proofs/{wrong}", headers={"Accept": "application/json"}).status_code in (
            404,
            422,
        ), wrong


def test_the_log_is_searched_and_shows_its_steps(client, plate):
    for name in ("Alpha", "Beta"):
        edit(client, plate, "add-layer", layer={"kind": "exposure", "name": name}, after=None)
    post(client, f"/plates/{plate}/undo", revision=revision(client, plate), looking=LOOKING)
    edit(client, plate, "add-layer", layer={"kind": "invert", "name": "Gamma 100 %"}, after=None)
    whole = client.get(f"/plates/{plate}/log").data.decode()
    assert whole.count('class="branch"') == 4 and "lanes-2" in whole and "other branch" in whole
    for asked, names in (("beta", ["Beta"]), ("100 %", ["Gamma"]), ("nowhere", []), ("%", ["Gamma"])):
        text = client.get(f"/plates/{plate}/log", query_string={"q": asked}).data.decode()
        assert [name for name in ("Alpha", "Beta", "Gamma") if name in text] == names
    picture = re.search(r'data-picture="([^"]+)"', whole)[1]
    assert client.get(picture).data[:2] == b"\xff\xd8"


@pytest.mark.parametrize(
    ("states", "lanes", "into"),
    [
        ([(3, 2), (2, 1), (1, None)], [0, 0, 0], [(), (0,), (0,)]),
        ([(4, 2), (3, 2), (2, 1), (1, None)], [0, 1, 0, 0], [(), (), (0, 1), (0,)]),
        ([(5, 3), (4, 1), (3, 1), (2, 1), (1, None)], [0, 1, 0, 2, 0], [(), (), (0,), (), (0, 1, 2)]),
    ],
)
def test_the_tree_of_the_log_gives_each_branch_a_lane_until_it_joins(states, lanes, into):
    tree = drawn(states)
    assert [tree[number].lane for number, _ in states] == lanes
    assert [tree[number].into for number, _ in states] == into
