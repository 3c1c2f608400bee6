"""The data folder through bad days: two servers, a full disk, no right to write, damage, a kill at any moment."""

import os
import shutil
import sqlite3
import subprocess
import sys
import zipfile
from pathlib import Path

import pytest
from sqlalchemy import event

from glyptic.actions import edit
from glyptic.actions.open_picture import open_picture
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import Damaged, DiskFull, DocumentError, FolderInUse, NotFound, ReadOnly, UnknownVersion
from glyptic.document.writing import write_stack
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.store import Store, migrating
from glyptic.store.assets import content_hash
from glyptic.store.levels import FACTS

FIRST_RELEASE = Path(__file__).parents[1] / "data" / "first-release.zip"


def first_release(folder):
    """The data folder as the first release left it."""
    with zipfile.ZipFile(FIRST_RELEASE) as archive:
        archive.extractall(folder)
    return folder


def add(shop, plate, kind="exposure"):
    return edit.apply_edit(shop, plate, shop.current(plate).revision, "add-layer", {"layer": {"kind": kind}})


def workshop(folder):
    return Workshop(Store(folder), limit=1_000_000)


def test_a_second_glyptic_is_told_so(shop):
    with pytest.raises(FolderInUse, match="Another Glyptic is at work"):
        Store(shop.store.folder)


def test_a_folder_is_free_again_when_its_glyptic_was_killed(tmp_path):
    hold = (
        f"import os, signal; from glyptic.store import Store; s = Store(__import__('pathlib').Path({str(tmp_path)!r}));"
    )
    killed = subprocess.run([sys.executable, "-c", hold + "os.kill(os.getpid(), signal.SIGKILL)"], check=False)
    assert killed.returncode < 0
    Store(tmp_path).close()


def test_what_the_first_release_kept_opens_as_it_was(tmp_path):
    folder = first_release(tmp_path)
    shop = workshop(folder)
    current = shop.current(1)
    assert write_stack(current.stack, VOCABULARY) == (folder / "expected.json").read_text()
    assert add(shop, 1).stack.layers[-1].kind == "exposure"
    assert [backup.why for backup in shop.store.backups.all()] == [f"before-{migrating.newest_version()}"]
    shop.store.close()


class Killed(BaseException):
    """The process ends here."""


def opened_until(folder, statements):
    """Open a store and be killed before the statement of that number; the number of all where it was not."""
    done = 0

    def count(*_):
        nonlocal done
        if done == statements:
            raise Killed
        done += 1

    def watch(engine, *_):
        event.listen(engine, "before_cursor_execute", count)

    with pytest.MonkeyPatch.context() as patch:
        whole = migrating.migrate
        patch.setattr(migrating, "migrate", lambda engine, backups: (watch(engine), whole(engine, backups)))
        try:
            Store(folder).close()
        except Killed:
            return None
    return done


@pytest.mark.parametrize("begin", [lambda folder: folder, first_release], ids=["new", "first release"])
def test_a_migration_that_is_killed_at_any_statement_happens_wholly_or_not_at_all(tmp_path, begin):
    statements = 0
    while True:
        folder = tmp_path / str(statements)
        folder.mkdir()
        begin(folder)
        all_of_them = opened_until(folder, statements)
        Store(folder).close()
        with sqlite3.connect(folder / "glyptic.sqlite") as database:
            assert database.execute("select version_num from alembic_version").fetchall() == [
                (migrating.newest_version(),)
            ]
        shutil.rmtree(folder)
        if all_of_them is not None:
            break
        statements += 1
    assert statements > 5


def test_half_a_first_migration_of_an_early_release_is_cleared_away(tmp_path):
    with sqlite3.connect(tmp_path / "glyptic.sqlite") as database:
        database.execute("create table asset (hash text primary key)")
        database.execute("create table alembic_version (version_num text)")
    Store(tmp_path).close()


def test_a_folder_of_the_future_is_told_so_and_left_alone(tmp_path):
    Store(tmp_path).close()
    with sqlite3.connect(tmp_path / "glyptic.sqlite") as database:
        database.execute("update alembic_version set version_num = '9999'")
    before = (tmp_path / "glyptic.sqlite").read_bytes()
    with pytest.raises(UnknownVersion, match="newer Glyptic"):
        Store(tmp_path)
    assert (tmp_path / "glyptic.sqlite").read_bytes() == before


def test_a_full_disk_is_told_reading_goes_on_and_it_passes_by_itself(shop, photo):
    plate = open_picture(shop, photo, "one.png")
    with shop.store.engine.connect() as connection:
        pages = connection.exec_driver_sql("PRAGMA page_count").scalar()

    def full(connection, *_):
        connection.execute(f"PRAGMA max_page_count={pages}")

    event.listen(shop.store.engine, "checkout", full)
    with pytest.raises(DiskFull, match="disk is full"):
        for _ in range(200):
            add(shop, plate)
    kept = len(shop.current(plate).stack.layers)
    event.remove(shop.store.engine, "checkout", full)
    event.listen(shop.store.engine, "checkout", lambda c, *_: c.execute("PRAGMA max_page_count=1073741823"))
    assert len(add(shop, plate).stack.layers) == kept + 1


def test_a_folder_that_may_not_be_written_is_looked_at(shop, photo, monkeypatch):
    plate = open_picture(shop, photo, "one.png")
    kept = add(shop, plate).stack
    shop.store.close()
    monkeypatch.setattr(os, "access", lambda path, mode: mode != os.W_OK)
    monkeypatch.setattr(Path, "mkdir", lambda *a, **k: pytest.fail("nothing is to be written"))
    again = workshop(shop.store.folder)
    assert again.current(plate).stack == kept and again.picture(content_hash(photo)).width == 320
    with pytest.raises(ReadOnly, match="may not be written"):
        add(again, plate)


def test_a_damaged_database_is_told_at_the_start_and_a_backup_brings_it_back(shop, photo):
    plate = open_picture(shop, photo, "one.png")
    kept = add(shop, plate).stack
    shop.store.backups.make()
    shop.store.close()
    path = shop.store.folder / "glyptic.sqlite"
    with sqlite3.connect(path) as database:
        database.execute("pragma wal_checkpoint(truncate)")
        root = database.execute("select rootpage from sqlite_master where name = 'plate'").fetchone()[0]
    content = bytearray(path.read_bytes())
    content[(root - 1) * 4096 : root * 4096] = bytes(4096)
    path.write_bytes(content)
    damaged = workshop(shop.store.folder)
    assert "glyptic restore" in damaged.store.trouble
    with pytest.raises(Damaged), damaged.store.writing():
        pytest.fail("a damaged database is only read")
    backups = damaged.store.backups
    damaged.store.close()
    backups.restore()
    again = workshop(shop.store.folder)
    assert again.store.trouble == "" and again.current(plate).stack == kept
    assert list(backups.folder.glob("damaged-*"))
    again.store.close()


def test_backups_are_kept_by_age(shop):
    from datetime import UTC, datetime, timedelta

    start = datetime(2026, 3, 1, 9, tzinfo=UTC)
    for hours in range(0, 24 * 9, 5):
        shop.store.backups.daily(most=4, at=start + timedelta(hours=hours))
    assert [backup.at.day for backup in shop.store.backups.all()] == [10, 9, 8, 7]
    shop.store.backups.daily(most=0)
    assert shop.store.backups.all() == []
    with pytest.raises(NotFound, match="no backup"):
        shop.store.backups.restore()


DAMAGES = {
    "cut short": lambda path: os.truncate(path, path.stat().st_size // 2),
    "a bit turned": lambda path: path.write_bytes(bytes([path.read_bytes()[0] ^ 1]) + path.read_bytes()[1:]),
    "gone": lambda path: path.unlink(),
    "of other code": lambda path: path.parent.joinpath(FACTS).write_text(
        path.parent.joinpath(FACTS).read_text().replace('"meaning": "', '"meaning": "00')),
    "no facts": lambda path: path.parent.joinpath(FACTS).write_text("{}"),
}  # fmt: skip


@pytest.mark.parametrize("damage", DAMAGES)
def test_levels_that_are_not_what_was_made_are_made_again(shop, photo, damage):
    open_picture(shop, photo, "one.png")
    asset = content_hash(photo)
    first = shop.store.assets.picture(asset).colour.codes(1).copy()
    DAMAGES[damage](shop.store.folder / "levels" / asset / "colour-1")
    assert (shop.store.assets.picture(asset).colour.codes(1) == first).all()
    assert shop.store.assets.levels.get(asset, b"") is not None


def test_levels_that_cannot_be_written_fail_nothing(shop, photo, monkeypatch):
    monkeypatch.setattr("glyptic.store.levels.mkdtemp", no_room)
    plate = open_picture(shop, photo, "one.png")
    assert shop.picture(shop.current(plate).asset).colour.codes(1).shape == (3, 100, 160)


def no_room(*_, **__):
    raise OSError(28, "No space left on device")


def test_an_asset_that_is_not_what_was_kept_is_told(shop, photo):
    open_picture(shop, photo, "one.png")
    asset = content_hash(photo)
    path = shop.store.folder / "assets" / asset[:2] / asset
    path.write_bytes(photo[:-1] + b"?")
    shop.store.assets.levels.drop(asset)
    with pytest.raises(Damaged, match="damaged"):
        shop.store.assets.picture(asset)
    path.unlink()
    with pytest.raises(NotFound, match="missing"):
        shop.store.assets.picture(asset)


@pytest.mark.parametrize("name", ["../secret", "a" * 64 + "/..", "", "A" * 64])
def test_only_a_content_hash_names_an_asset(shop, name):
    assert name not in shop.store.assets
    with pytest.raises(NotFound):
        shop.store.assets.read(name)


def test_an_edit_that_names_a_picture_that_is_not_there_is_refused(shop, photo):
    plate = open_picture(shop, photo, "one.png")
    before = shop.current(plate).revision
    with pytest.raises(DocumentError, match="source"):
        edit.apply_edit(
            shop, plate, before, "add-layer", {"layer": {"kind": "picture", "source": "../../etc/passwd2"[3:]}}
        )
    assert shop.current(plate).revision == before
