"""JPEG, 8 bits."""

from __future__ import annotations

from collections.abc import Iterable
from io import BytesIO
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.base.errors import ExportError
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.pillow import open_header, read_pixels
from glyptic.formats.profiles import srgb_profile
from glyptic.formats.sheet import Samples, Sheet
from glyptic.formats.source import Source

SIGNATURE = b"\xff\xd8\xff"
LONGEST_SIDE = 65535
LONGEST_EXIF = 65000


def size(source: Source) -> tuple[int, int]:
    return open_header(source.bytes).size


def read(source: Source) -> Raw:
    return read_pixels(open_header(source.bytes))


def write(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits, chroma at full resolution; the whole picture is gathered, for its encoder takes it in one piece."""
    if max(sheet.width, sheet.height) > LONGEST_SIDE:
        raise ExportError(f"A JPEG has at most {LONGEST_SIDE} pixels a side. Nothing was written; choose TIFF or PNG.")
    image = Image.new("RGB", (sheet.width, sheet.height))
    top = 0
    for band in bands:
        image.paste(Image.fromarray(np.ascontiguousarray(band[:, :, :3])), (0, top))
        top += len(band)
    exif = b"Exif\x00\x00" + metadata.exif if 0 < len(metadata.exif) < LONGEST_EXIF else b""
    image.save(stream, "JPEG", quality=quality, subsampling=0, icc_profile=srgb_profile(), exif=exif)


def encode_small(samples: NDArray[np.unsignedinteger], quality: int) -> bytes:
    """A bare JPEG of (h, w, 3) codes for a card on the page: no profile, no metadata."""
    buffer = BytesIO()
    Image.fromarray(np.ascontiguousarray(samples)).save(buffer, "JPEG", quality=quality, subsampling=0)
    return buffer.getvalue()
