"""Bringing a database up to date: in one transaction, after a copy of it; and whether it is whole at all."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import Connection, Engine, inspect, text
from sqlalchemy.exc import DatabaseError

from glyptic.base.errors import UnknownVersion
from glyptic.store.backups import Backups
from glyptic.store.faults import BROKEN, explained

if TYPE_CHECKING:
    from alembic.config import Config

MIGRATIONS = Path(__file__).with_name("migrations")
VERSIONS = "alembic_version"


def known_versions() -> list[str]:
    """The numbers of the migrations, in order: files are called by theirs."""
    return sorted(path.stem[1:5] for path in (MIGRATIONS / "versions").glob("v*.py"))


def newest_version() -> str:
    """The number of the last migration."""
    return known_versions()[-1]


def trouble_in(engine: Engine) -> str:
    """A sentence where SQLite finds that its file is damaged; '' where it is whole (or new)."""
    try:
        with engine.connect() as connection:
            said = connection.exec_driver_sql("PRAGMA quick_check(1)").scalar()
    except DatabaseError as error:
        found = explained(error)
        if found is None:
            raise
        return str(found)
    return "" if said == "ok" else str(BROKEN)


def version_of(connection: Connection) -> str | None:
    """The migration a database was brought to last; None for a new one."""
    if not inspect(connection).has_table(VERSIONS):
        return None
    version: str | None = connection.execute(text(f"select version_num from {VERSIONS}")).scalar()  # noqa: S608
    return version


def _without_leftovers(connection: Connection) -> None:
    """Clear away what an early release left where it was killed in its first migration: tables without a version, and
    nothing in them."""
    tables = [name for name in inspect(connection).get_table_names() if name != VERSIONS]
    filled = [name for name in tables if connection.execute(text(f'select 1 from "{name}" limit 1')).first()]  # noqa: S608
    if filled:
        raise UnknownVersion(
            f"The database holds {', '.join(filled)} but does not say which Glyptic wrote it; nothing was changed. "
            "‘glyptic restore’ puts the newest backup in its place."
        )
    connection.exec_driver_sql("PRAGMA defer_foreign_keys=ON")
    for name in tables:
        connection.execute(text(f'drop table "{name}"'))


def migrate(engine: Engine, backups: Backups) -> None:
    """Bring a database to the newest version, wholly or not at all; raises UnknownVersion for one of the future."""
    with engine.connect() as connection:
        version = version_of(connection)
    if version == newest_version():
        return
    if version is not None and version not in known_versions():
        raise UnknownVersion(
            f"This data folder was written by a newer Glyptic (version {version[:20]} of its tables; this one knows up "
            f"to {newest_version()}). Nothing was changed; start that Glyptic, or choose another folder with --data."
        )
    if version is not None:
        backups.make(f"before-{newest_version()}")
    from alembic import command  # noqa: PLC0415  half a second, and hardly ever needed

    with engine.execution_options(at_once=True).begin() as connection:
        if version is None:
            _without_leftovers(connection)
        command.upgrade(_config(connection), "head")


def _config(connection: Connection) -> Config:
    from alembic.config import Config  # noqa: PLC0415

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.attributes["connection"] = connection
    return config
