"""Picture files by content hash on disk, and what is decoded from them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace
from hashlib import sha256
from pathlib import Path
from threading import RLock

from glyptic.base.digests import digest
from glyptic.base.errors import Damaged, NotFound
from glyptic.formats import Decoded, read_picture
from glyptic.formats.wish import Wish
from glyptic.formats.writing import write_whole
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.spaces import SRGB
from glyptic.store.faults import told
from glyptic.store.levels import Levels

USUAL = Wish(SRGB)
NAME = re.compile("[0-9a-f]{64}")
UNLIMITED = 2**62


def content_hash(data: bytes) -> str:
    """SHA-256 of a file's bytes, in hexadecimal."""
    return sha256(data).hexdigest()


class Assets:
    """`assets/` holds the files as they came, `levels/` what was decoded from them (which can be made again)."""

    def __init__(self, folder: Path, writable: bool = True) -> None:
        self._files = folder / "assets"
        if writable:
            self._files.mkdir(parents=True, exist_ok=True)
        self.levels = Levels(folder / "levels", writable)
        self.lock = RLock()

    def _file(self, asset: str) -> Path:
        if not NAME.fullmatch(asset):
            raise NotFound("That is no picture of this data folder.")
        return self._files / asset[:2] / asset

    @property
    def folder(self) -> Path:
        """What every picture file lies below."""
        return self._files

    def path(self, asset: str) -> Path:
        """Where the bytes of a picture file lie."""
        return self._file(asset)

    def __contains__(self, asset: str) -> bool:
        return bool(NAME.fullmatch(asset)) and self._file(asset).is_file()

    def __iter__(self) -> Iterator[Path]:
        """The files there are."""
        return (path for path in self._files.glob("??/*") if NAME.fullmatch(path.name))

    def keep(self, data: bytes, decoded: Decoded) -> str:
        """Keep a file and its decoded levels; returns its hash."""
        asset = content_hash(data)
        path = self._file(asset)
        with told(), self.lock:
            if path.exists() and path.stat().st_size == len(data):
                path.touch()
            else:
                path.parent.mkdir(exist_ok=True)
                write_whole(path, data)
        name = levels_of(asset, Wish(decoded.space))
        if self.levels.get(name, b"") is None:
            self.levels.put(name, decoded)
        return asset

    def refresh(self, asset: str) -> bool:
        """Whether a file is here; it counts as kept just now."""
        path = self._file(asset)
        with told(), self.lock:
            if path.is_file():
                path.touch()
                return True
        return False

    def drop(self, asset: str) -> None:
        """Let go of a picture that nothing refers to any more."""
        self._file(asset).unlink(missing_ok=True)
        for name in [name for name in self.levels if name.startswith(asset)]:
            self.levels.drop(name)

    def read(self, asset: str) -> bytes:
        """The file's bytes; raises NotFound, or Damaged where they are not what was kept."""
        try:
            data = self._file(asset).read_bytes()
        except OSError as error:
            raise NotFound("The picture's file is missing from the data folder; put it back from a copy.") from error
        if content_hash(data) != asset:
            raise Damaged(
                f"The picture's file {asset[:2]}/{asset} in the data folder is damaged; put it back from a copy. "
                "Nothing else is lost."
            )
        return data

    def picture(self, asset: str, wish: Wish = USUAL) -> Picture:
        """The picture decoded as wished, with its levels, mapped from disk; decoded again where they are not what was
        made."""
        name = levels_of(asset, wish)
        key = digest(name) if name != asset else bytes.fromhex(asset) if NAME.fullmatch(asset) else b""
        found = self.levels.get(name, key) if key else None
        if found is None:
            decoded = read_picture(self.checked(asset), UNLIMITED, wish)
            self.levels.put(name, decoded)
            found = self.levels.get(name, key) or decoded.as_picture(key)
        return replace(found, space=wish.into or found.space)

    def checked(self, asset: str) -> Path:
        """Where a file lies that is what was kept; raises NotFound or Damaged."""
        self.read(asset)
        return self._file(asset)


def levels_of(asset: str, wish: Wish) -> str:
    """What the levels of a picture are called, read as wished."""
    return f"{asset}-{wish.name}" if wish.name else asset
