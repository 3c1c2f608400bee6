"""One data folder: the database, the picture files, the decoded pictures."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, QueuePool, create_engine, event
from sqlalchemy.orm import Session, sessionmaker

from glyptic.base.errors import Damaged, ReadOnly
from glyptic.store import migrating
from glyptic.store.assets import Assets
from glyptic.store.backups import Backups
from glyptic.store.faults import BROKEN, NO_WRITING, explained, told
from glyptic.store.folder import DataFolder
from glyptic.store.objects import Objects
from glyptic.store.settings import KeptSettings
from glyptic.store.tiles import KeptTiles

NAME = "glyptic.sqlite"
PATIENCE = 30
"""Seconds that a write waits for another one."""
AT_ONCE = "at_once"
"""The option of a connection whose units of work take the right to write when they begin."""


class Store:
    """The data folder, which is this process's own. Migrations run when it is opened; a write is on disk before it is
    answered, whole or not at all.

    looked_at: to be read only, also beside another Glyptic that is at work in it. trouble: a sentence where the
    database is damaged, or ''; it is then only read.
    """

    def __init__(self, folder: Path, looked_at: bool = False) -> None:
        self.folder = folder
        self.place = DataFolder(folder, looked_at)
        self.trouble = ""
        try:
            self._open()
        except BaseException as error:
            self.place.let_go()
            found = explained(error)
            if found is None or found is error:
                raise
            raise found from error

    def _open(self) -> None:
        self.engine = create_engine("sqlite://", creator=self._connect, poolclass=QueuePool)
        event.listen(self.engine, "begin", _begin)
        self._reading = sessionmaker(self.engine, expire_on_commit=False)
        self._writing = sessionmaker(self.engine.execution_options(**{AT_ONCE: True}), expire_on_commit=False)
        self.backups = Backups(self.folder / "backups", self.folder / NAME)
        self.trouble = migrating.trouble_in(self.engine)
        if self.place.writable and not self.trouble:
            migrating.migrate(self.engine, self.backups)
        self.assets = Assets(self.folder, self.place.writable)
        self.objects = Objects()
        self.settings = KeptSettings(self.folder / "settings.json")
        self.tiles = KeptTiles(self.folder / "tiles.sqlite" if self.place.writable else None)

    def _connect(self) -> sqlite3.Connection:
        """A connection whose units of work are begun by `_begin`, so that they hold changes of tables too."""
        path = self.folder / NAME
        address = path.absolute().as_uri()
        if not self.place.writable:
            address += "?mode=ro" if path.with_name(f"{NAME}-wal").exists() else "?immutable=1"
        connection = sqlite3.connect(address, uri=True, timeout=PATIENCE, check_same_thread=False, isolation_level=None)
        if self.place.writable:
            connection.execute("PRAGMA journal_mode=WAL")
        connection.execute("PRAGMA synchronous=FULL")
        connection.execute("PRAGMA foreign_keys=ON")
        return connection

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A look at the database, at one moment of it."""
        with told(), self._reading() as session, session.begin():
            self.objects.watch(session)
            yield session
        self.objects.remember(session)

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A unit of work: committed whole at the end, or not at all; one at a time."""
        if not self.place.writable:
            raise ReadOnly(str(NO_WRITING))
        if self.trouble:
            raise Damaged(str(BROKEN))
        with told(), self._writing() as session, session.begin():
            session.connection()  # the right to write is taken now
            self.objects.watch(session)
            yield session
        self.objects.remember(session)

    def vacuum(self) -> None:
        """Give the room of what was let go back to the disk."""
        with told(), self.engine.connect() as connection:
            connection.connection.cursor().execute("VACUUM")

    def close(self) -> None:
        self.engine.dispose()
        self.tiles.close()
        self.place.let_go()


def _begin(connection: Connection) -> None:
    at_once = connection.get_execution_options().get(AT_ONCE)
    connection.exec_driver_sql("BEGIN IMMEDIATE" if at_once else "BEGIN")
