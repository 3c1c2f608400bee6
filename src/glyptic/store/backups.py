"""Copies of the database, made while it is in use (SQLite's backup API) and kept by age."""

from __future__ import annotations

import os
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from glyptic.base.errors import NotFound
from glyptic.store.faults import told

STAMP = "%Y-%m-%d-%H%M%S"
DAY = "%Y-%m-%d"
PAGES = 2000
"""Pages copied at a time: between them whoever writes may go on."""
SUFFIX = ".sqlite"
DAMAGED = "damaged-"
LEFT = ("-wal", "-shm")
"""What SQLite keeps beside its file."""


@dataclass(frozen=True)
class Backup:
    """A copy: its file, when it was made (UTC), its bytes, and what it was made for ('' for one made by age)."""

    path: Path
    at: datetime
    size: int
    why: str


def _whole(path: Path) -> bool:
    try:
        with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as copy:
            return bool(copy.execute("PRAGMA quick_check(1)").fetchone()[0] == "ok")
    except sqlite3.DatabaseError:
        return False


class Backups:
    """The copies in a folder, of one database."""

    def __init__(self, folder: Path, database: Path) -> None:
        self.folder = folder
        self.database = database

    def all(self) -> list[Backup]:
        """Every copy, the newest first."""
        found = []
        for path in self.folder.glob(f"*{SUFFIX}"):
            stamp, _, why = path.stem.partition("~")
            try:
                at = datetime.strptime(stamp, STAMP)
            except ValueError:
                continue
            found.append(Backup(path, at, path.stat().st_size, why))
        return sorted(found, key=lambda backup: (backup.at, backup.path.name), reverse=True)

    def make(self, why: str = "", at: datetime | None = None) -> Backup:
        """Copy the database as it is now; the copy appears once it is whole."""
        at = (at or datetime.now(UTC)).replace(tzinfo=None, microsecond=0)
        path = self.folder / f"{at.strftime(STAMP)}{f'~{why}' if why else ''}{SUFFIX}"
        half = path.with_suffix(".making")
        with told():
            self.folder.mkdir(parents=True, exist_ok=True)
            try:
                with closing(sqlite3.connect(self.database)) as source, closing(sqlite3.connect(half)) as copy:
                    source.backup(copy, pages=PAGES, sleep=0)
                with half.open("rb+") as stream:
                    os.fsync(stream.fileno())
                half.replace(path)
            finally:
                half.unlink(missing_ok=True)
        return Backup(path, at, path.stat().st_size, why)

    def daily(self, most: int, at: datetime | None = None) -> Backup | None:
        """Make today's copy if there is none, and let those go that are beyond `most`, the oldest first; of each day
        the newest is kept. Copies made for a reason stay as long as others do."""
        now = (at or datetime.now(UTC)).replace(tzinfo=None)
        today = now.strftime(DAY)
        made = None
        if most > 0 and not any(one.at.strftime(DAY) == today and not one.why for one in self.all()):
            made = self.make(at=now)
        for old in self.all()[most:]:
            old.path.unlink(missing_ok=True)
        return made

    def restore(self, name: str | None = None) -> Backup:
        """Put a copy (the newest that is whole, unless named) in the database's place; what was there is kept beside
        the copies. The database must not be open. Raises NotFound."""
        wanted = [one for one in self.all() if name is None or one.path.name == name]
        backup = next((one for one in wanted if _whole(one.path)), None)
        if backup is None:
            raise NotFound(
                f"There is no {'such ' if name else ''}backup that can be read in {self.folder}; nothing was changed."
            )
        with told():
            aside = self.folder / f"{DAMAGED}{datetime.now(UTC).strftime(STAMP)}"
            for suffix in ("", *LEFT):
                there = self.database.with_name(self.database.name + suffix)
                if there.exists():
                    there.replace(aside.with_name(aside.name + (suffix or ".db")))
            half = self.database.with_suffix(".making")
            with closing(sqlite3.connect(backup.path)) as source, closing(sqlite3.connect(half)) as copy:
                source.backup(copy)
            half.replace(self.database)
        return backup
