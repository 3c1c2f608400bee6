"""Decoded pictures at every level, on disk: made from a picture file, and again whenever they are not what was made."""

from __future__ import annotations

import json
import shutil
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from tempfile import mkdtemp

import imagecodecs
import numpy as np
from isal import isal_zlib

from glyptic.base.meaning import of_levels
from glyptic.base.rectangles import Canvas
from glyptic.formats import Decoded
from glyptic.formats.room import room
from glyptic.pixels.areas import Codes
from glyptic.pixels.pyramid import Picture, Pyramid, every_level

UNFINISHED = ".making-"
"""What a folder of levels is called until all are written; one left over is from a server that was killed."""
FACTS = "levels.json"
"""What the other files must be: the meaning of the code that made them, their sizes and checksums (CRC-32)."""
COLOUR, ALPHA = "colour", "alpha"
FAST_LEVEL = 1
PACKED = ".zst"
"""One plane of a grey picture, nearly always a mask, is kept, and packed: it takes a hundredth."""
PIECE = 4 * 2**20


def _planes(decoded: Decoded) -> dict[str, Codes]:
    return {COLOUR: decoded.codes} | ({} if decoded.alpha is None else {ALPHA: decoded.alpha})


class Levels:
    """The levels of pictures by their content hash. writable: whether what is made may be kept."""

    def __init__(self, folder: Path, writable: bool) -> None:
        self.folder = folder
        self.writable = writable
        if writable:
            folder.mkdir(parents=True, exist_ok=True)
            for unfinished in folder.glob(f"{UNFINISHED}*"):
                shutil.rmtree(unfinished, ignore_errors=True)

    def put(self, asset: str, decoded: Decoded) -> None:
        """Keep the levels of a decoded picture; where they cannot be written they are not, which costs time only."""
        if not self.writable:
            return
        try:
            temporary = Path(mkdtemp(prefix=UNFINISHED, dir=self.folder))
        except OSError:
            return
        try:
            self._write(temporary, decoded)
            shutil.rmtree(self.folder / asset, ignore_errors=True)
            temporary.replace(self.folder / asset)
        except OSError:
            shutil.rmtree(temporary, ignore_errors=True)

    def _write(self, folder: Path, decoded: Decoded) -> None:
        files: dict[str, dict[str, object]] = {}
        deepest = Canvas(decoded.width, decoded.height).deepest
        for name, codes in _planes(decoded).items():
            grey = name == COLOUR and all(np.array_equal(codes[0], plane) for plane in codes[1:])
            for level, reduced in enumerate(every_level(codes[:1] if grey else codes, deepest)):
                path = folder / f"{name}-{level}{PACKED if grey else ''}"
                plain = np.ascontiguousarray(reduced).tobytes()
                kept = imagecodecs.zstd_encode(plain, level=FAST_LEVEL) if grey else plain
                path.write_bytes(kept)
                shape = (len(codes), *reduced.shape[1:])
                files[path.name] = {"shape": shape, "bytes": len(kept), "crc": isal_zlib.crc32(kept)}
        facts = {"meaning": of_levels().hex(), "files": files}
        (folder / FACTS).write_text(json.dumps(facts))

    def get(self, asset: str, key: bytes) -> Picture | None:
        """The picture with its levels, mapped from disk; None where they are missing, damaged, or of other code."""
        folder = self.folder / asset
        try:
            facts = json.loads((folder / FACTS).read_text())
            if facts["meaning"] != of_levels().hex() or not all(_sound(folder, *one) for one in facts["files"].items()):
                return None
            planes = {name: _pyramid(folder, name, facts["files"]) for name in (COLOUR, ALPHA)}
        except (OSError, ValueError, KeyError, TypeError, AttributeError, RuntimeError):
            return None
        if self.writable:
            with suppress(OSError):
                (folder / FACTS).touch()
        colour = planes[COLOUR]
        return None if colour is None else Picture(colour, key, planes[ALPHA])

    def __iter__(self) -> Iterator[str]:
        """The pictures of which there are levels."""
        if self.folder.is_dir():
            yield from (path.name for path in self.folder.iterdir() if not path.name.startswith(UNFINISHED))

    def drop_idle(self, days: float) -> int:
        """Forget the levels of pictures that nobody looked at for so long; returns how many."""
        before = time.time() - days * 86_400
        idle = [asset for asset in self if self._used(asset) < before]
        for asset in idle:
            self.drop(asset)
        return len(idle)

    def _used(self, asset: str) -> float:
        try:
            return (self.folder / asset / FACTS).stat().st_mtime
        except OSError:
            return 0.0

    def drop(self, asset: str) -> None:
        """Forget the levels of a picture; they are made again when it is looked at."""
        shutil.rmtree(self.folder / asset, ignore_errors=True)


def _sound(folder: Path, name: str, fact: dict[str, int]) -> bool:
    """Whether a file is what was written."""
    path = folder / name
    if path.stat().st_size != fact["bytes"]:
        return False
    crc = 0
    buffer = bytearray(PIECE)
    with path.open("rb", buffering=0) as stream:
        while count := stream.readinto(buffer):
            crc = isal_zlib.crc32(memoryview(buffer)[:count], crc)
    return crc == fact["crc"]


def _pyramid(folder: Path, name: str, files: dict[str, dict[str, object]]) -> Pyramid | None:
    levels: dict[int, Codes] = {}
    for file, fact in files.items():
        if file.startswith(f"{name}-"):
            number = int(file.removeprefix(f"{name}-").removesuffix(PACKED))
            levels[number] = _codes(folder / file, tuple(fact["shape"]))  # type: ignore[arg-type]
    return Pyramid(levels.pop(0), levels) if levels else None


def _codes(path: Path, shape: tuple[int, int, int]) -> Codes:
    """Codes as they were written: mapped, or unpacked."""
    if path.suffix != PACKED:
        return np.asarray(np.memmap(path, np.uint16, "c", shape=shape))
    out: Codes = room(shape, np.uint16)
    imagecodecs.zstd_decode(path.read_bytes(), out=out[0].data.cast("B"))
    out[1:] = out[0]
    return out
