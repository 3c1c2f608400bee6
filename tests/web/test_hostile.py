"""Whatever is sent to whatever address: never a fault of ours, and nothing changed."""

import io
import json

import pytest

from glyptic.actions.kits.adding import ARGUMENTS
from glyptic.actions.shelve import list_plates
from tests.web.conftest import LOOKING, add, post, upload

DEEP = "[" * 50_000
NUMBERS = [0, -1, 2**53, 2**63, 10**40, 1.5, 1e308, True, None, "1", [], {}]
TEXTS = ["", "\ud800", "\x00", "x" * 5000, "../..", "<b>", "%s", 5]
ODD_BODIES = [
    b"", b"{", b"null", b"[]", b"\xff\xfe", DEEP.encode(), ("{\"a\":" * 5000 + "1" + "}" * 5000).encode(), b'{"a": 1e999}',
    json.dumps({"revision": 2**63}).encode(),
]  # fmt: skip
NAMES = (
    "revision", "to", "layer", "edit", "kind", "start", "after", "pick", "part", "at", "across", "width", "channel", "low",
    "high", "auto", "target", "from", "points", "stroke", "seeds", "level", "number", "op", "view", "before", "x", "y",
    "name", "note", "value", "proof", "side", "layers", "instead",
)  # fmt: skip


@pytest.fixture
def addresses(client, photo):
    """Every address of the application, with a plate that is there, and with ones that cannot be."""
    plate = upload(client, photo).get_json()["plate"]
    add(client, plate, "grey")
    post(client, f"/plates/{plate}/kits", layers=["layer-1"], name="Kept", note="")
    filled = []
    for rule in client.application.url_map.iter_rules():
        for number in (plate, 2**63, 10**30):
            values = {name: str(number) if name.endswith("_id") else "zz" for name in rule.arguments}
            path = rule.rule
            for name, value in values.items():
                path = path.replace(f"<int:{name}>", value).replace(f"<path:{name}>", value).replace(f"<{name}>", value)
            filled += [(method, path) for method in rule.methods & {"GET", "POST"}]
    return sorted(set(filled))


def check(answer, path):
    assert answer.status_code < 500, (path, answer.get_data(as_text=True)[:300])
    answer.close()


def test_odd_bodies_are_never_a_fault_of_ours(client, addresses, shop):
    before = list_plates(shop)[0].root
    for method, path in addresses:
        if path.endswith(("/copy", "/remove", "/put-back", "/backup", "/free", "/bin", "/undo", "/redo")):
            continue
        if method == "GET":
            check(client.get(f"{path}?x=nan&y=1e999&level={2**70}&before={2**70}&after=%ED%A0%80&to=x"), path)
            continue
        for content in ODD_BODIES:
            for accept in ("application/json", "text/html"):
                headers = {"Accept": accept, "Content-Type": "application/json"}
                check(client.post(path, data=content, headers=headers), path)
    assert list_plates(shop)[0].root == before


@pytest.mark.parametrize("name", NAMES)
def test_every_field_may_hold_anything(client, addresses, name):
    plate = "/plates/1/"
    good = {"revision": 2, "layer": "base", "looking": LOOKING, "edit": "set", "arguments": {}, "points": [[1, 1]],
            "target": "grey", "stroke": {}, "from": 0, "across": 5, "kind": "gap"}  # fmt: skip
    for i, (method, path) in enumerate(addresses):
        if method == "POST" and path.startswith(plate) and not path.endswith(("/remove", "/copy")):
            for odd in (*NUMBERS, *TEXTS)[i % 2 :: 2]:  # the other half at the address before and after
                check(client.post(path, json={**good, name: odd}, headers={"Accept": "application/json"}), path)


def test_every_argument_of_an_edit_may_hold_anything(client, addresses):
    from glyptic.document.edits import EDITS

    headers = {"Accept": "application/json"}
    schemas = {edit.name: edit.schema for edit in EDITS.values()} | {"add-kit": ARGUMENTS}
    for edit, schema in schemas.items():
        for name in schema.params:
            for odd in (*NUMBERS, *TEXTS, {"kind": "\ud800"}, [["a"]], json.loads("[" * 200 + "]" * 200)):
                arguments = {"layer": "layer-1", "layers": ["layer-1"], name: odd}
                body = {"revision": 2, "edit": edit, "arguments": arguments, "looking": LOOKING}
                check(client.post("/plates/1/drafts", json=body, headers=headers), edit)


def test_odd_files_are_never_a_fault_of_ours(client, addresses):
    for method, path in addresses:
        if method == "POST":
            for content in (b"", b"PK\x03\x04", b"\x89PNG\r\n\x1a\n", b"{}", b'{"layers": 1}'):
                for name in ("a.png", "a.json", "\x00", "x" * 300):
                    form = {"picture": (io.BytesIO(content), name), "request": "[" * 3000}
                    if not path.endswith(("/remove", "/copy", "/bin")):
                        check(client.post(path, data=form), path)
