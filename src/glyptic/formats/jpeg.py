"""JPEG, 8 bits."""

from __future__ import annotations

from io import BytesIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.base.errors import ExportError
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.pillow import open_header, read_pixels
from glyptic.formats.profiles import srgb_profile

SIGNATURE = b"\xff\xd8\xff"
LONGEST_SIDE = 65535
LONGEST_EXIF = 65000


def size(data: bytes) -> tuple[int, int]:
    return open_header(data).size


def read(data: bytes) -> Raw:
    return read_pixels(open_header(data))


def encode(samples: NDArray[np.unsignedinteger], quality: int, metadata: Metadata) -> bytes:
    """The file's bytes; samples (h, w, 3) of 8 bits, chroma at full resolution."""
    if max(samples.shape[:2]) > LONGEST_SIDE:
        raise ExportError(f"A JPEG has at most {LONGEST_SIDE} pixels a side. Nothing was written; choose TIFF or PNG.")
    buffer = BytesIO()
    exif = b"Exif\x00\x00" + metadata.exif if 0 < len(metadata.exif) < LONGEST_EXIF else b""
    Image.fromarray(samples[:, :, :3]).save(
        buffer, "JPEG", quality=quality, subsampling=0, icc_profile=srgb_profile(), exif=exif
    )
    return buffer.getvalue()


def encode_small(samples: NDArray[np.unsignedinteger], quality: int) -> bytes:
    """A bare JPEG of (h, w, 3) codes for a card on the page: no profile, no metadata."""
    buffer = BytesIO()
    Image.fromarray(np.ascontiguousarray(samples)).save(buffer, "JPEG", quality=quality, subsampling=0)
    return buffer.getvalue()
