"""Writing a picture file: whole, or not at all."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import ExportError
from glyptic.formats import jpeg, png, tiff
from glyptic.formats.decoded import Metadata

Encoder = Callable[[NDArray[np.unsignedinteger], int, Metadata], bytes]


@dataclass(frozen=True)
class Format:
    """A format that can be written."""

    name: str
    title: str
    suffixes: tuple[str, ...]
    depths: tuple[int, ...]
    media_type: str
    has_alpha: bool
    encode: Encoder


FORMATS = {
    f.name: f
    for f in (
        Format("png", "PNG", (".png",), (8, 16), "image/png", True, png.encode),
        Format("jpeg", "JPEG", (".jpg", ".jpeg"), (8,), "image/jpeg", False, jpeg.encode),
        Format("tiff", "TIFF", (".tif", ".tiff"), (8, 16), "image/tiff", True, tiff.encode),
    )
}


@dataclass(frozen=True)
class Output:
    """What is to be written: the format, bits a channel (8 or 16), JPEG quality 1..100."""

    format: str
    depth: int = 8
    quality: int = 92

    def __post_init__(self) -> None:
        chosen = FORMATS.get(self.format)
        if chosen is None:
            raise ExportError(f"The format must be one of {', '.join(FORMATS)}, not {self.format[:20]!r}.")
        if self.depth not in (8, 16):
            raise ExportError(f"The depth must be 8 or 16 bits, not {self.depth}.")
        if self.depth not in chosen.depths:
            raise ExportError(f"{chosen.title} holds 8 bits a channel only; choose PNG or TIFF for 16.")
        if not 1 <= self.quality <= 100:
            raise ExportError(f"The quality must be in 1..100, not {self.quality}.")

    @classmethod
    def for_path(cls, path: Path, depth: int, quality: int) -> Output:
        """The output a file's ending asks for."""
        for known in FORMATS.values():
            if path.suffix.lower() in known.suffixes:
                return cls(known.name, depth, quality)
        raise ExportError(f"The ending must be .png, .tif or .jpg, not {path.suffix or 'nothing'}.")


def encode_picture(
    colour: NDArray[np.unsignedinteger],
    alpha: NDArray[np.unsignedinteger] | None,
    output: Output,
    metadata: Metadata,
) -> bytes:
    """The file's bytes. colour: (h, w, 3); alpha: (h, w) or None, left out where the format has none."""
    chosen = FORMATS[output.format]
    samples = colour
    if alpha is not None and chosen.has_alpha:
        samples = np.dstack([colour, alpha])
    return chosen.encode(np.ascontiguousarray(samples), output.quality, metadata)


def write_picture(
    path: Path, colour: NDArray[np.unsignedinteger], alpha: NDArray[np.unsignedinteger] | None, output: Output,
    metadata: Metadata,
) -> None:  # fmt: skip
    """Write a picture file; it appears by rename once it is whole."""
    write_whole(path, encode_picture(colour, alpha, output, metadata))


def write_whole(path: Path, content: bytes) -> None:
    """Write bytes to a file that appears by rename; an error leaves nothing behind."""
    handle, name = tempfile.mkstemp(prefix=".glyptic-", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as stream:
            stream.write(content)
            stream.flush()
            os.fsync(stream.fileno())
        Path(name).chmod(0o644)
        Path(name).replace(path)
    except BaseException:
        Path(name).unlink(missing_ok=True)
        raise
