"""The data folder itself: taken by one Glyptic at a time, perhaps only to be looked at."""

from __future__ import annotations

import os
from pathlib import Path

from filelock import FileLock, Timeout

from glyptic.base.errors import FolderInUse
from glyptic.store.faults import told

LOCK = "in-use"


class DataFolder:
    """A folder that is this process's own until it is let go, also when the process is killed.

    writable: whether anything may be written in it; where it may not, or it is only to be `looked_at`, it is not taken.
    """

    def __init__(self, path: Path, looked_at: bool = False) -> None:
        self.path = path
        with told():
            if not looked_at and not path.is_dir():
                path.mkdir(parents=True, exist_ok=True)
        self.writable = not looked_at and os.access(path, os.W_OK)
        self._lock = FileLock(path / LOCK)
        if self.writable:
            self._take()

    def _take(self) -> None:
        try:
            with told():
                self._lock.acquire(timeout=0)
        except Timeout as error:
            raise FolderInUse(
                f"Another Glyptic is at work in {self.path}. Two at once would lose strokes, so this one has not begun "
                "and nothing was changed. Go on in the other one, stop it first, or choose another folder with --data."
            ) from error

    def let_go(self) -> None:
        """Somebody else may take it now."""
        self._lock.release()
