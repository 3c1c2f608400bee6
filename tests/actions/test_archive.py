"""A plate leaves as a stack file with its pictures, and comes back as it was; hostile archives get a sentence."""

import io
import json
import zipfile

import numpy as np
import pytest
from sqlalchemy import select

from glyptic.actions import edit, history
from glyptic.actions.archive import open_archive, open_stack_file, opened_together, write_archive, write_folder
from glyptic.actions.areas import add_picture_part
from glyptic.actions.open_picture import open_picture
from glyptic.actions.shelve import list_plates
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, GlypticError
from glyptic.cli.main import main
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
from glyptic.store import Store
from glyptic.store.tables import Plate, Revision
from tests.conftest import png_bytes

STROKE = {"to": 1, "size": 30, "hardness": 0, "opacity": 0.5, "flow": 0.5, "points": [[10, 10, 1], [90, 60, 1]]}


@pytest.fixture
def plate(shop, photo):
    """A plate that refers to its base twice, and to a grey picture."""
    plate = open_picture(shop, photo, "../ vase/one.png")
    base = shop.current(plate).asset
    for layer in ({"kind": "grey", "strokes": [STROKE]}, {"kind": "picture", "source": base, "opacity": 0.5}):
        edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": layer})
    current = shop.current(plate)
    grey = png_bytes((np.indices((200, 320)).sum(0) % 255).astype(np.uint8))
    add_picture_part(shop, plate, current.revision, current.chosen, grey, "grey.png", "show")
    return plate


def drawn(shop, plate):
    return render(shop.plan(shop.current(plate).stack), TileCache(), depth=16).colour


@pytest.fixture
def archive(shop, plate):
    stream = io.BytesIO()
    write_archive(shop, plate, stream)
    stream.seek(0)
    return stream


def test_an_archive_opens_as_the_plate_it_was(shop, plate, archive):
    again = open_archive(shop, archive, "one.zip")
    assert shop.current(again).stack == shop.current(plate).stack
    assert np.array_equal(drawn(shop, again), drawn(shop, plate))


def changed(archive, change):
    """The archive with its files, as {name: bytes}, changed."""
    with zipfile.ZipFile(archive) as found:
        files = {info.filename: found.read(info) for info in found.infolist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        for name, content in files.items():
            made.writestr(name, content)
    out.seek(0)
    return out


def states(shop, plate):
    """Every state of a plate's log: where it came of, what it is, what it was called."""
    with shop.store.session() as session:
        rows = session.scalars(select(Revision).where(Revision.plate_id == plate).order_by(Revision.id)).all()
        place = {row.id: i for i, row in enumerate(rows)}
        head = place[session.get(Plate, plate).head_id]
        return head, [
            (row.root, row.sentence, row.at, row.chosen, place.get(row.parent_id), place.get(row.next_id))
            for row in rows
        ]


def test_the_whole_history_travels_to_another_machine_to_the_bit(shop, plate, tmp_path):
    history.undo(shop, plate, shop.current(plate).revision)
    aside = {"layer": {"kind": "exposure", "settings": {"stops": 1}}}
    edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", aside)
    history.undo(shop, plate, shop.current(plate).revision)
    stream = io.BytesIO()
    write_archive(shop, plate, stream)
    there = Workshop(Store(tmp_path / "there"), limit=1_000_000)
    again = open_archive(there, stream, "one.zip")
    assert states(there, again) == states(shop, plate) and len(states(there, again)[1]) == 5
    assert np.array_equal(drawn(there, again), drawn(shop, plate))
    history.redo(there, again, there.current(again).revision)
    history.redo(shop, plate, shop.current(plate).revision)
    assert there.current(again).stack == shop.current(plate).stack
    there.store.close()


def test_an_archive_of_before_has_its_state_and_a_log_that_begins_there(shop, plate, archive):
    again = open_archive(
        shop, changed(archive, lambda files: (files.pop("log.json"), files.pop("log/objects.jsonl"))), "old.zip"
    )
    assert shop.current(again).stack == shop.current(plate).stack and len(states(shop, again)[1]) == 1


def test_a_stack_file_that_was_changed_by_hand_comes_after_the_history(shop, plate, archive):
    def change(files):
        plain = json.loads(files["stack.json"])
        files["stack.json"] = json.dumps({**plain, "layers": plain["layers"][:1]})

    again = open_archive(shop, changed(archive, change), "changed.zip")
    assert len(shop.current(again).stack.layers) == 1
    history.undo(shop, again, shop.current(again).revision)
    assert shop.current(again).stack == shop.current(plate).stack


def test_a_folder_renders_without_the_application_and_opens_again(shop, plate, tmp_path):
    stack = write_folder(shop, plate, tmp_path / "out")
    assert main(["render", str(stack), str(tmp_path / "out.png"), "--depth", "16"]) == 0
    from glyptic.formats import read_picture

    rendered = np.moveaxis(read_picture(tmp_path / "out.png").codes, 0, 2)
    assert np.array_equal(rendered, drawn(shop, plate))
    assert np.array_equal(drawn(shop, open_stack_file(shop, stack)), drawn(shop, plate))


def test_a_stack_file_takes_the_pictures_chosen_with_it(shop, plate, tmp_path):
    write_folder(shop, plate, tmp_path / "out")
    files = {path.name: path.read_bytes() for path in (tmp_path / "out").rglob("*.*")}
    [again] = opened_together(shop, files)
    assert shop.current(again).stack == shop.current(plate).stack
    with pytest.raises(DocumentError, match="not chosen together"):
        list(opened_together(shop, {"stack.json": files["stack.json"]}))


def source(text):
    def change(files):
        plain = json.loads(files["stack.json"])
        plain["layers"][0]["source"] = text
        files["stack.json"] = json.dumps(plain)

    return change


def log(change):
    def changes(files):
        plain = json.loads(files["log.json"])
        change(plain)
        files["log.json"] = json.dumps(plain)

    return changes


HOSTILE = {
    "no stack": lambda files: files.pop("stack.json"),
    "two stacks": lambda files: files.update({"other/stack.json": b"{}"}),
    "a picture is missing": lambda files: files.pop(next(n for n in files if n.startswith("pictures/"))),
    "a path out of it": source("../../etc/passwd"),
    "an absolute path": source("/etc/passwd"),
    "no picture in it": lambda files: files.update({next(n for n in files if n.startswith("pictures/")): b"no picture"}),
    "no JSON": lambda files: files.update({"stack.json": b"\xff"}),
    "deeply nested": lambda files: files.update({"stack.json": b"[" * 100_000}),
    "a lone surrogate": source("\ud800.png"),
    "a log that is none": lambda files: files.update({"log.json": b"[1]"}),
    "a log of a state that comes of a later one": log(lambda plain: plain["states"][0].update(after=2)),
    "a log with a picture elsewhere": log(lambda plain: plain["pictures"].update({"0" * 64: "../../etc/passwd"})),
    "a log with another picture": log(lambda plain: plain["pictures"].update({"0" * 64: "pictures/01-one.png"})),
    "a log with a time that is none": log(lambda plain: plain["states"][1].update(at="yesterday")),
    "a piece that is not what it says": lambda files: files.update(
        {"log/objects.jsonl": files["log/objects.jsonl"].replace(b"exposure", b"exposuse").replace(b"grey", b"gray")}
    ),
    "pieces that are missing": lambda files: files.update({"log/objects.jsonl": b""}),
    "too many files": lambda files: files.update({f"x{i}": b"" for i in range(1001)}),
}  # fmt: skip


@pytest.mark.parametrize("how", HOSTILE)
def test_a_hostile_archive_changes_nothing(archive, how, tmp_path):
    there = Workshop(Store(tmp_path / "there"), limit=1_000_000)
    with pytest.raises(GlypticError) as refused:
        open_archive(there, changed(archive, HOSTILE[how]), "bad.zip")
    assert len(str(refused.value)) > 10 and not list_plates(there) and not list_plates(there, removed=True)
    there.store.close()


def test_a_damaged_archive_changes_nothing(shop, archive):
    data = bytearray(archive.getvalue())
    data[60:120] = bytes(60)
    for content in (data[: len(data) // 2], data[:200] + data[260:], b"PK\x03\x04" + bytes(80)):
        with pytest.raises(GlypticError):
            open_archive(shop, io.BytesIO(bytes(content)), "bad.zip")


def test_a_bomb_is_read_up_to_its_limit_only(shop, archive, monkeypatch):
    monkeypatch.setattr("glyptic.actions.zips.LARGEST_FILE", 1000)
    with pytest.raises(DocumentError, match="larger than"):
        open_archive(shop, archive, "bomb.zip")


def test_the_commands_save_and_open(shop, plate, tmp_path, capsys):
    expected = shop.current(plate).stack
    shop.store.close()
    folder = shop.store.folder.rename(tmp_path / "shelf").parent
    assert main(["save", "one", str(tmp_path / "one.zip"), "--data", str(folder)]) == 0
    assert main(["open", str(tmp_path / "one.zip"), str(tmp_path / "gone.png"), "--data", str(folder)]) == 2
    said = capsys.readouterr()
    assert "is plate 2" in said.out and "gone.png" in said.err
    assert main(["save", "none of these", str(tmp_path / "two.zip"), "--data", str(folder)]) == 2
    assert not (tmp_path / "two.zip").exists()
    store = Store(tmp_path / "shelf", looked_at=True)
    assert Workshop(store).current(2).stack == expected
    store.close()
