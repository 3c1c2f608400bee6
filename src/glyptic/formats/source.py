"""A picture file to be read: bytes that are here, or a file that is read piece by piece."""

from __future__ import annotations

from io import BytesIO
from pathlib import Path
from typing import BinaryIO

from glyptic.base.errors import PictureError

HEAD = 32


class Source:
    """What a reader reads from."""

    def __init__(self, given: bytes | Path) -> None:
        if isinstance(given, Path) and not given.is_file():
            raise PictureError("That is no file: a folder, a pipe or a device cannot be opened as a picture.")
        self._given = given

    @property
    def head(self) -> bytes:
        """The first bytes, by which a format is known."""
        if isinstance(self._given, bytes):
            return self._given[:HEAD]
        with self._given.open("rb") as stream:
            return stream.read(HEAD)

    @property
    def path(self) -> Path | None:
        """Where the file lies; None for bytes that are here."""
        return self._given if isinstance(self._given, Path) else None

    @property
    def bytes(self) -> bytes:
        """The whole file."""
        return self._given if isinstance(self._given, bytes) else self._given.read_bytes()

    def open(self) -> BinaryIO:
        """A stream over it, to be closed by the caller."""
        return BytesIO(self._given) if isinstance(self._given, bytes) else self._given.open("rb")
