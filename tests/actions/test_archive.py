"""A plate leaves as a stack file with its pictures, and comes back as it was; hostile archives get a sentence."""

import io
import json
import zipfile

import numpy as np
import pytest

from glyptic.actions import edit
from glyptic.actions.archive import open_archive, open_stack_file, opened_together, write_archive, write_folder
from glyptic.actions.areas import add_picture_part
from glyptic.actions.open_picture import open_picture
from glyptic.actions.shelve import list_plates
from glyptic.base.errors import DocumentError, GlypticError
from glyptic.cli.main import main
from glyptic.engine.cache import TileCache
from glyptic.engine.render import render
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


def source(text):
    def change(files):
        plain = json.loads(files["stack.json"])
        plain["layers"][0]["source"] = text
        files["stack.json"] = json.dumps(plain)

    return change


HOSTILE = {
    "no stack": lambda files: files.pop("stack.json"),
    "two stacks": lambda files: files.update({"other/stack.json": b"{}"}),
    "a picture is missing": lambda files: files.pop(next(name for name in files if name != "stack.json")),
    "a path out of it": source("../../etc/passwd"),
    "an absolute path": source("/etc/passwd"),
    "no picture in it": lambda files: files.update({next(n for n in files if n != "stack.json"): b"no picture"}),
    "no JSON": lambda files: files.update({"stack.json": b"\xff"}),
    "deeply nested": lambda files: files.update({"stack.json": b"[" * 100_000}),
    "a lone surrogate": source("\ud800.png"),
    "too many files": lambda files: files.update({f"x{i}": b"" for i in range(1001)}),
}  # fmt: skip


@pytest.mark.parametrize("how", HOSTILE)
def test_a_hostile_archive_changes_nothing(shop, archive, how):
    before = list_plates(shop)
    with pytest.raises(GlypticError) as refused:
        open_archive(shop, changed(archive, HOSTILE[how]), "bad.zip")
    assert len(str(refused.value)) > 10 and list_plates(shop) == before


def test_a_damaged_archive_changes_nothing(shop, archive):
    data = bytearray(archive.getvalue())
    data[60:120] = bytes(60)
    for content in (data[: len(data) // 2], data[:200] + data[260:], b"PK\x03\x04" + bytes(80)):
        with pytest.raises(GlypticError):
            open_archive(shop, io.BytesIO(bytes(content)), "bad.zip")


def test_a_bomb_is_read_up_to_its_limit_only(shop, archive, monkeypatch):
    monkeypatch.setattr("glyptic.actions.archive.LARGEST_FILE", 1000)
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
    from glyptic.actions.workshop import Workshop
    from glyptic.store import Store

    store = Store(tmp_path / "shelf", looked_at=True)
    assert Workshop(store).current(2).stack == expected
    store.close()
