"""JPEG, 8 bits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from io import BytesIO
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.base.errors import ExportError
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.pillow import open_header, read_pixels
from glyptic.formats.profiles import srgb_profile
from glyptic.formats.sheet import Samples, Sheet, in_order, strips
from glyptic.formats.source import Source

SIGNATURE = b"\xff\xd8\xff"
LONGEST_SIDE = 65535
LONGEST_EXIF = 65000
BLOCK = 8
"""Pixels a side of what is coded at once, at full chroma."""
STRIP = 32
"""Rows of blocks of a strip; fewer where the picture is so wide that more than MOST_BLOCKS would stand in one."""
MOST_BLOCKS = 65535
START_OF_FRAME, START_OF_SCAN, FIRST_RESTART, RESTARTS = 0xC0, 0xDA, 0xD0, 8
END = b"\xff\xd9"


def size(source: Source) -> tuple[int, int]:
    return open_header(source.bytes).size


def read(source: Source) -> Raw:
    return read_pixels(open_header(source.bytes))


def write(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits, chroma at full resolution. Each strip is coded by itself; between them stand restart markers (ITU-T T.81,
    B.2.1), so that they make one picture and none of it is held."""
    if max(sheet.width, sheet.height) > LONGEST_SIDE:
        raise ExportError(f"A JPEG has at most {LONGEST_SIDE} pixels a side. Nothing was written; choose TIFF or PNG.")
    across = -(-sheet.width // BLOCK)
    down = max(1, min(STRIP, MOST_BLOCKS // across))
    exif = b"Exif\x00\x00" + metadata.exif if 0 < len(metadata.exif) < LONGEST_EXIF else b""
    coded = in_order(
        lambda strip: _coded(strip, quality, icc_profile=srgb_profile(), exif=exif), strips(bands, down * BLOCK)
    )
    for number, strip in enumerate(coded):
        start, scan = _parted(strip)
        if number == 0:
            stream.write(_of_height(start, sheet.height, across * down))
        else:
            stream.write(b"\xff" + bytes([FIRST_RESTART + (number - 1) % RESTARTS]))
        stream.write(scan)
    stream.write(END)


def _coded(samples: Samples, quality: int, **told: bytes) -> bytes:
    """A whole JPEG file of (h, w, 3 or more) codes, with the standard's own code tables, whatever is in it."""
    buffer = BytesIO()
    image = Image.fromarray(np.ascontiguousarray(samples[:, :, :3]))
    image.save(buffer, "JPEG", quality=quality, subsampling=0, **told)
    return buffer.getvalue()


def _segments(data: bytes) -> Iterator[tuple[int, int, int]]:
    """(marker, first byte, byte after the last) of each segment up to the start of the scan."""
    at = len(SIGNATURE) - 1
    while True:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        yield data[at + 1], at, end
        if data[at + 1] == START_OF_SCAN:
            return
        at = end


def _parted(data: bytes) -> tuple[bytes, bytes]:
    """A file's segments, and its scan without the mark of its end."""
    *_, (_, _, end) = _segments(data)
    return data[:end], data[end : -len(END)]


def _of_height(start: bytes, height: int, interval: int) -> bytes:
    """The segments before a scan, told another height and after how many blocks a restart marker comes."""
    out = bytearray(start)
    for marker, at, _ in _segments(start):
        if marker == START_OF_FRAME:
            out[at + 5 : at + 7] = height.to_bytes(2, "big")
        if marker == START_OF_SCAN:
            out[at:at] = b"\xff\xdd\x00\x04" + interval.to_bytes(2, "big")
    return bytes(out)


def encode_small(samples: NDArray[np.unsignedinteger], quality: int) -> bytes:
    """A bare JPEG of (h, w, 3) codes for a card on the page: no profile, no metadata."""
    return _coded(samples, quality)
