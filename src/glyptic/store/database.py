"""One data folder: the database, the picture files, the decoded pictures."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, event
from sqlalchemy.orm import Session, sessionmaker

from glyptic.store.assets import Assets
from glyptic.store.objects import Objects
from glyptic.store.tiles import KeptTiles

MIGRATIONS = Path(__file__).with_name("migrations")


class Store:
    """The data folder. Migrations run when it is opened; a write is on disk before it is answered."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)
        self.engine = create_engine(f"sqlite:///{folder / 'glyptic.sqlite'}", connect_args={"timeout": 30})
        event.listen(self.engine, "connect", _durable)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        self._migrate()
        self.assets = Assets(folder)
        self.objects = Objects()
        self.tiles = KeptTiles(folder / "tiles.sqlite")

    def _migrate(self) -> None:
        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        with self.engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A unit of work: committed whole at the end, or not at all."""
        try:
            with self._sessions() as session, session.begin():
                yield session
        except BaseException:
            self.objects.forget()
            raise

    def close(self) -> None:
        self.engine.dispose()
        self.tiles.close()


def _durable(connection: Any, record: object) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()
