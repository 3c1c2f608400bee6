"""Picture files by content hash, and their decoded levels, on disk."""

from __future__ import annotations

import shutil
from hashlib import sha256
from pathlib import Path
from tempfile import mkdtemp

import numpy as np

from glyptic.base.errors import NotFound
from glyptic.base.rectangles import level_size
from glyptic.formats import Decoded, read_picture
from glyptic.formats.writing import write_whole
from glyptic.pixels.pyramid import Picture, Pyramid, every_level

UNFINISHED = ".making-"
"""What a folder of levels is called until all are written; one left over is from a server that was killed."""
SMALLEST_LEVEL = 64
"""Levels are made ahead down to about this many pixels a side."""


def content_hash(data: bytes) -> str:
    """SHA-256 of a file's bytes, in hexadecimal."""
    return sha256(data).hexdigest()


class Assets:
    """`assets/` holds the files as they came, `levels/` what was decoded from them (which can be made again)."""

    def __init__(self, folder: Path) -> None:
        self._files = folder / "assets"
        self._levels = folder / "levels"
        for made in (self._files, self._levels):
            made.mkdir(parents=True, exist_ok=True)
        for unfinished in self._levels.glob(f"{UNFINISHED}*"):
            shutil.rmtree(unfinished, ignore_errors=True)

    def _file(self, asset: str) -> Path:
        return self._files / asset[:2] / asset

    def keep(self, data: bytes, decoded: Decoded) -> str:
        """Keep a file and its decoded levels; returns its hash."""
        asset = content_hash(data)
        path = self._file(asset)
        if not path.exists():
            path.parent.mkdir(exist_ok=True)
            write_whole(path, data)
        if not (self._levels / asset).exists():
            self._write_levels(asset, decoded)
        return asset

    def read(self, asset: str) -> bytes:
        """The file's bytes; raises NotFound."""
        try:
            return self._file(asset).read_bytes()
        except OSError as error:
            raise NotFound("The picture's file is missing from the data folder; put it back from a copy.") from error

    def picture(self, asset: str) -> Picture:
        """The decoded picture with its levels, mapped from disk; decoded again if they are missing."""
        folder = self._levels / asset
        if not folder.exists():
            self._write_levels(asset, read_picture(self.read(asset), limit=2**62))
        alpha = _mapped(folder, "alpha") if (folder / "alpha-0.npy").exists() else None
        return Picture(_mapped(folder, "colour"), bytes.fromhex(asset), alpha)

    def _write_levels(self, asset: str, decoded: Decoded) -> None:
        temporary = Path(mkdtemp(prefix=UNFINISHED, dir=self._levels))
        planes = {"colour": decoded.codes} | ({} if decoded.alpha is None else {"alpha": decoded.alpha})
        for name, codes in planes.items():
            for level, reduced in enumerate(every_level(codes, deepest_level(decoded.width, decoded.height))):
                np.save(temporary / f"{name}-{level}.npy", reduced)
        try:
            temporary.replace(self._levels / asset)
        except OSError:
            shutil.rmtree(temporary, ignore_errors=True)


def deepest_level(width: int, height: int) -> int:
    """The last level that is still at least SMALLEST_LEVEL pixels on its longer side."""
    level = 0
    while max(level_size(width, height, level + 1)) >= SMALLEST_LEVEL:
        level += 1
    return level


def _mapped(folder: Path, name: str) -> Pyramid:
    levels = {
        int(path.stem.rsplit("-", 1)[1]): np.asarray(np.load(path, mmap_mode="c"))
        for path in folder.glob(f"{name}-*.npy")
    }
    return Pyramid(levels.pop(0), levels)
