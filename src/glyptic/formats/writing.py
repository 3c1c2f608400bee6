"""Writing a picture file: whole, or not at all."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from io import BytesIO
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import ExportError
from glyptic.document.delivery import KINDS, Kind
from glyptic.formats import jpeg, png, tiff
from glyptic.formats.decoded import Metadata
from glyptic.formats.icc import of_space
from glyptic.formats.sheet import Samples, Sheet
from glyptic.formats.targets import Target
from glyptic.formats.whole import write_avif, write_jxl, write_webp
from glyptic.pixels.spaces import SRGB, Space

Writer = Callable[[BinaryIO, Sheet, Iterable[Samples], int, Metadata], None]
"""Writes bands (h, width, channels) from the top to a stream that can be sought; quality; metadata."""


@dataclass(frozen=True)
class Format:
    """A format that can be written: what is known of it, and what writes it."""

    kind: Kind
    write: Writer

    def __getattr__(self, name: str) -> Any:
        return getattr(self.kind, name)


WRITERS: dict[str, Writer] = {
    "jpg": jpeg.write, "png": png.write, "tif": tiff.write, "webp": write_webp, "avif": write_avif, "jxl": write_jxl,
}  # fmt: skip
ZSTD = "tif-zstd"
"""A TIFF that is packed by Zstandard."""
FORMATS = {name: Format(kind, WRITERS[name]) for name, kind in KINDS.items()} | {
    ZSTD: Format(replace(KINDS["tif"], name=ZSTD, title="TIFF, Zstandard"), tiff.write_zstd)
}
OTHER_NAMES = {"jpeg": "jpg", "tiff": "tif"}
"""What formats are called besides."""


SUFFIXES = ", ".join(kind.suffixes[0] for kind in KINDS.values())
Ground = tuple[float, float, float]
WHITE: Ground = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Output:
    """What is to be written: the format, bits a channel (8 or 16), JPEG quality 1..100. ground: the encoded colour 0..1
    that a picture with alpha is laid over where the format holds none. target: the colours that come out; None for
    those of the working space."""

    format: str
    depth: int = 8
    quality: int = 92
    ground: Ground = WHITE
    target: Target | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "format", OTHER_NAMES.get(self.format, self.format))
        chosen = FORMATS.get(self.format)
        if chosen is None:
            raise ExportError(f"The format must be one of {', '.join(FORMATS)}, not {self.format[:20]!r}.")
        if self.depth not in (8, 16):
            raise ExportError(f"The depth must be 8 or 16 bits, not {self.depth}.")
        if self.depth not in chosen.depths:
            raise ExportError(f"{chosen.title} holds 8 bits a channel only; choose PNG or TIFF for 16.")
        if self.target is not None and self.target.model == "cmyk" and not chosen.inks:
            raise ExportError(f"{chosen.title} holds no inks; choose TIFF or JPEG for them.")
        if not 1 <= self.quality <= 100:
            raise ExportError(f"The quality must be in 1..100, not {self.quality}.")

    def target_from(self, space: Space) -> Target:
        """The colours that come out of a plate in a working space."""
        if self.target is not None:
            return self.target
        return Target.of(SRGB if FORMATS[self.format].only_srgb else space)

    @classmethod
    def for_path(
        cls, path: Path, depth: int, quality: int, ground: Ground = WHITE, target: Target | None = None
    ) -> Output:
        """The output a file's ending asks for."""
        for known in FORMATS.values():
            if path.suffix.lower() in known.suffixes:
                return cls(known.name, depth, quality, ground, target)
        raise ExportError(f"The ending must be one of {SUFFIXES}, not {path.suffix or 'nothing'}.")


def ground_of(text: str) -> Ground:
    """The colour of rrggbb; raises ExportError."""
    if not re.fullmatch(r"[0-9a-fA-F]{6}", text):
        raise ExportError("The colour to lay the picture over must be six hexadecimal digits, rrggbb.")
    r, g, b = (int(text[i : i + 2], 16) / 255 for i in (0, 2, 4))
    return r, g, b


def encode_picture(
    colour: NDArray[np.unsignedinteger],
    alpha: NDArray[np.unsignedinteger] | None,
    output: Output,
    metadata: Metadata,
    space: Space = SRGB,
) -> bytes:
    """The file's bytes. colour: (h, w, 3) of a working space; alpha: (h, w) or None, left out where the format has
    none."""
    samples = np.dstack([colour, alpha]) if alpha is not None and FORMATS[output.format].has_alpha else colour
    height, width, channels = samples.shape
    stream = BytesIO()
    sheet = Sheet(width, height, channels, output.depth, of_space(space))
    FORMATS[output.format].write(stream, sheet, [samples], output.quality, metadata)
    return stream.getvalue()


def write_picture(path: Path, sheet: Sheet, bands: Iterable[Samples], output: Output, metadata: Metadata) -> None:
    """Write a picture file band by band; it appears by rename once it is whole."""
    with whole_file(path) as stream:
        FORMATS[output.format].write(stream, sheet, bands, output.quality, metadata)


PUBLIC, PRIVATE = 0o644, 0o600
"""Who may read a file: everybody on this machine, or its owner alone."""


UNFINISHED = ".glyptic-"
"""How the name of a file begins that is not whole yet."""


def write_whole(path: Path, content: bytes, mode: int = PUBLIC) -> None:
    """Write bytes to a file that appears by rename; an error leaves nothing behind."""
    with whole_file(path, mode) as stream:
        stream.write(content)


@contextmanager
def whole_file(path: Path, mode: int = PUBLIC) -> Iterator[BinaryIO]:
    """A stream to a file that appears by rename at the end; an error leaves nothing behind."""
    handle, name = tempfile.mkstemp(prefix=UNFINISHED, dir=path.parent)
    try:
        os.close(handle)
        with Path(name).open("w+b") as stream:
            yield stream
            stream.flush()
            os.fsync(stream.fileno())
        Path(name).chmod(mode)
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise
