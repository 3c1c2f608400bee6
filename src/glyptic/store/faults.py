"""What goes wrong with disks and databases, told in sentences."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy.exc import DBAPIError

from glyptic.base.errors import Damaged, DiskFull, ReadOnly, StoreError

NO_ROOM = DiskFull(
    "The disk is full, so this could not be kept. Nothing that was kept before is lost; make room (the settings page "
    "shows what the data folder holds) and do it again."
)
NO_WRITING = ReadOnly(
    "The data folder may not be written, so nothing was changed. What is in it can be looked at; allow writing and go "
    "on."
)
BROKEN = Damaged(
    "The database of the data folder is damaged. What can still be read is shown; to get everything back, stop Glyptic "
    "and run ‘glyptic restore’, which puts the newest backup in its place and keeps the damaged one beside it."
)
FULL = {errno.ENOSPC, errno.EDQUOT, errno.EFBIG}
FORBIDDEN = {errno.EROFS, errno.EACCES, errno.EPERM}
BY_CODE: dict[int, StoreError] = {
    sqlite3.SQLITE_FULL: NO_ROOM,
    sqlite3.SQLITE_IOERR: NO_ROOM,
    sqlite3.SQLITE_READONLY: NO_WRITING,
    sqlite3.SQLITE_CANTOPEN: NO_WRITING,
    sqlite3.SQLITE_CORRUPT: BROKEN,
    sqlite3.SQLITE_NOTADB: BROKEN,
}
PRIMARY = 0xFF
"""The part of SQLite's code that is not the extension."""


def explained(error: BaseException | None) -> StoreError | None:
    """What a failure, or what led to it, means for the data folder; None for one that has nothing to do with it."""
    while error is not None:
        if isinstance(error, StoreError):
            return error
        found = _of(error)
        if found is not None:
            return type(found)(str(found))
        error = error.__cause__ or error.__context__
    return None


def _of(error: BaseException) -> StoreError | None:
    if isinstance(error, DBAPIError):
        return _of(error.orig) if error.orig is not None else None
    if isinstance(error, sqlite3.Error):
        return BY_CODE.get(getattr(error, "sqlite_errorcode", -1) & PRIMARY)
    if isinstance(error, OSError):
        return NO_ROOM if error.errno in FULL else NO_WRITING if error.errno in FORBIDDEN else None
    return None


@contextmanager
def told() -> Iterator[None]:
    """Failures of the disk and the database become sentences; everything else passes."""
    try:
        yield
    except (OSError, sqlite3.Error, DBAPIError) as error:
        found = explained(error)
        if found is None:
            raise
        raise found from error
