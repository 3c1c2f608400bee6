"""One data folder: the database, the picture files, the decoded pictures."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, event, inspect, text
from sqlalchemy.orm import Session, sessionmaker

from glyptic.store.assets import Assets
from glyptic.store.objects import Objects
from glyptic.store.tiles import KeptTiles

MIGRATIONS = Path(__file__).with_name("migrations")


def newest_version() -> str:
    """The number of the last migration: files are called by theirs."""
    return max(path.stem[1:5] for path in (MIGRATIONS / "versions").glob("v*.py"))


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

    def _version(self) -> str | None:
        """The migration the database was brought to last; None for a new one."""
        if not inspect(self.engine).has_table("alembic_version"):
            return None
        with self.engine.connect() as connection:
            return connection.execute(text("select version_num from alembic_version")).scalar()

    def _migrate(self) -> None:
        if self._version() == newest_version():
            return
        from alembic import command  # noqa: PLC0415  half a second, and hardly ever needed
        from alembic.config import Config  # noqa: PLC0415

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
