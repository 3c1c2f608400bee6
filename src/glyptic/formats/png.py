"""PNG, 8 and 16 bits (W3C PNG, third edition)."""

from __future__ import annotations

import struct
import zlib

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import PictureError
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.exif import kept_block, orientation_of
from glyptic.formats.pillow import DAMAGED, open_header, read_pixels
from glyptic.formats.profiles import srgb_profile

SIGNATURE = b"\x89PNG\r\n\x1a\n"
END_OF_HEADER = 33
FAST_LEVEL = 4


def size(data: bytes) -> tuple[int, int]:
    """Width and height from the header chunk."""
    if len(data) < END_OF_HEADER or data[12:16] != b"IHDR":
        raise PictureError(DAMAGED)
    width, height = struct.unpack(">II", data[16:24])
    return width, height


def read(data: bytes) -> Raw:
    if data[24] != 16:
        return read_pixels(open_header(data))
    image = open_header(data)
    try:
        samples = imagecodecs.png_decode(data)
    except Exception as error:
        raise PictureError(DAMAGED) from error
    exif = image.getexif()
    return Raw(samples, image.info.get("icc_profile", b"") or b"", kept_block(exif), orientation_of(exif))


def _chunk(kind: bytes, content: bytes) -> bytes:
    crc = zlib.crc32(kind + content)
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", crc)


def encode(samples: NDArray[np.unsignedinteger], quality: int, metadata: Metadata) -> bytes:
    """The file's bytes; samples (h, w, 3 or 4) of 8 or 16 bits."""
    plain = imagecodecs.png_encode(samples, level=FAST_LEVEL)
    extra = _chunk(b"iCCP", b"sRGB\x00\x00" + zlib.compress(srgb_profile()))
    if metadata.exif:
        extra += _chunk(b"eXIf", metadata.exif)
    return bytes(plain[:END_OF_HEADER]) + extra + bytes(plain[END_OF_HEADER:])
