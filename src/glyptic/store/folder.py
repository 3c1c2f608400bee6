"""The data folder itself: taken by one Glyptic at a time, perhaps only to be looked at."""

from __future__ import annotations

import fcntl
import os
from io import TextIOWrapper
from pathlib import Path

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
        self._held: TextIOWrapper | None = None
        if self.writable:
            self._take()

    def _take(self) -> None:
        with told():
            held = (self.path / LOCK).open("w")
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            held.close()
            raise FolderInUse(
                f"Another Glyptic is at work in {self.path}. Two at once would lose strokes, so this one has not begun "
                "and nothing was changed. Go on in the other one, stop it first, or choose another folder with --data."
            ) from error
        self._held = held

    def let_go(self) -> None:
        """Somebody else may take it now."""
        if self._held is not None:
            self._held.close()
            self._held = None
