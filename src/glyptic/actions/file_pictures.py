"""The pictures a stack refers to, read from their files where there is no data folder."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from glyptic.base.digests import digest
from glyptic.formats import Decoded, read_picture
from glyptic.formats.wish import Wish
from glyptic.params import Values
from glyptic.pixels.pyramid import Picture


def file_key(path: Path) -> bytes:
    """What tells a file from others for as long as this process lives: where it lies, its size, when it was written."""
    facts = path.stat()
    return digest(str(path.resolve()), facts.st_size, facts.st_mtime_ns)


class FilePictures:
    """Gives pictures in a working space by their source and how that is read, each read once. path_of: where a source
    lies; raises PictureError for one that is not there. limit: pixels a picture may have."""

    def __init__(self, space: str, path_of: Callable[[str], Path], limit: int) -> None:
        self.space = space
        self._path_of = path_of
        self._limit = limit
        self._decoded: dict[tuple[str, Values | None], Decoded] = {}
        self._pictures: dict[tuple[str, Values | None], Picture] = {}

    def decoded(self, source: str, reading: Values | None = None) -> Decoded:
        """A picture as it was read; raises PictureError."""
        asked = (source, reading)
        if asked not in self._decoded:
            path, wish = self._path_of(source), Wish.of(self.space, reading)
            self._decoded[asked] = read_picture(path, self._limit, wish)
            self._pictures[asked] = self._decoded[asked].as_picture(digest(file_key(path), wish.name))
        return self._decoded[asked]

    def __call__(self, source: str, reading: Values | None = None) -> Picture:
        self.decoded(source, reading)
        return self._pictures[source, reading]
