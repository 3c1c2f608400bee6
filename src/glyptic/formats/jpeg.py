"""JPEG, 8 bits."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace
from io import BytesIO
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.base.errors import ExportError
from glyptic.decoders.blocks import jpeg_blocks, jpeg_segments
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.pillow import open_header, read_pixels
from glyptic.formats.profiles import CHANNELS
from glyptic.formats.sheet import Samples, Sheet, in_order, strips
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish

SIGNATURE = b"\xff\xd8\xff"
LONGEST_SIDE = 65535
BLOCK = 8
"""Pixels a side of what is coded at once, at full chroma."""
INKS = 4
STRIP = 32
"""Rows of blocks of a strip; fewer where the picture is so wide that more than MOST_BLOCKS would stand in one."""
MOST_BLOCKS = 65535
START_OF_FRAME, START_OF_SCAN, FIRST_RESTART, RESTARTS = 0xC0, 0xDA, 0xD0, 8
END = b"\xff\xd9"


def size(source: Source, wish: Wish) -> tuple[int, int]:
    return open_header(source.bytes).size


def read(source: Source, wish: Wish) -> Raw:
    data = source.bytes
    xmp, iptc = jpeg_blocks(data)
    return replace(read_pixels(open_header(data)), xmp=xmp, iptc=iptc)


def write(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits, chroma at full resolution. Each strip is coded by itself; between them stand restart markers (ITU-T T.81,
    B.2.1), so that they make one picture and none of it is held."""
    if max(sheet.width, sheet.height) > LONGEST_SIDE:
        raise ExportError(f"A JPEG has at most {LONGEST_SIDE} pixels a side. Nothing was written; choose TIFF or PNG.")
    across = -(-sheet.width // BLOCK)
    down = max(1, min(STRIP, MOST_BLOCKS // across))
    coded = in_order(
        lambda strip: _coded(strip, quality, sheet, icc_profile=sheet.profile), strips(bands, down * BLOCK)
    )
    told = jpeg_segments(metadata.exif, metadata.xmp, metadata.iptc)
    for number, strip in enumerate(coded):
        start, scan = _parted(strip)
        if number == 0:
            first = _after_first(start, told)
            stream.write(_of_height(first, sheet.height, across * down))
        else:
            stream.write(b"\xff" + bytes([FIRST_RESTART + (number - 1) % RESTARTS]))
        stream.write(scan)
    stream.write(END)


def _coded(samples: Samples, quality: int, sheet: Sheet | None = None, **told: bytes) -> bytes:
    """A whole JPEG file of codes (h, w, channels), with the standard's own code tables, whatever is in it."""
    buffer = BytesIO()
    colours = CHANNELS[sheet.model] if sheet is not None else 3
    mode = {"mode": "CMYK"} if colours == INKS else {}
    image = Image.fromarray(np.ascontiguousarray(samples[:, :, :colours]), **mode)
    dpi = {"dpi": (sheet.dpi, sheet.dpi)} if sheet is not None and sheet.dpi else {}
    image.save(buffer, "JPEG", quality=quality, subsampling=0, **told, **dpi)
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


def _after_first(start: bytes, told: bytes) -> bytes:
    """The segments before a scan with more of them after the first, which says that it is a JPEG."""
    _, (_, at, _), *_ = _segments(start)
    return start[:at] + told + start[at:]


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


def encode_small(samples: NDArray[np.unsignedinteger], quality: int, profile: bytes = b"") -> bytes:
    """A bare JPEG of (h, w, 3) codes for the page: no metadata, and no profile where they are sRGB."""
    told = {"icc_profile": profile} if profile else {}
    return _coded(samples, quality, None, **told)
