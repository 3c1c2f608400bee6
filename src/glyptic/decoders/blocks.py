"""Metadata as files carry it: blocks of EXIF, XMP and IPTC, found in a file and put into one.

Sources: CIPA DC-008 (EXIF); ISO 16684-1, and XMP specification part 3 (XMP in files); IPTC IIM 4.2.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator

XMP_MARK = bytes.fromhex("687474703a2f2f6e732e61646f62652e636f6d2f7861702f312e302f00")
"""What begins a JPEG segment that holds XMP. These marks are the bytes that the standards ask for."""
RESOURCES_MARK = bytes.fromhex("50686f746f73686f7020332e3000")
"""What begins a JPEG segment that holds image resources, among them IPTC."""
RESOURCE, IPTC_RESOURCE = b"8BIM", 0x0404
LONGEST_SEGMENT = 65_533 - 2
XMP_KEYWORD = bytes.fromhex("584d4c3a636f6d2e61646f62652e786d70")
"""What a text of a PNG is named that holds XMP."""
LARGEST = 16 * 2**20
"""Bytes of a block that are read: what is larger is no caption."""


def iptc_of_resources(data: bytes) -> bytes:
    """The IPTC datasets among image resources, or nothing."""
    at = 0
    while data[at : at + 4] == RESOURCE and at + 12 <= len(data):
        number = int.from_bytes(data[at + 4 : at + 6], "big")
        name = data[at + 6] + 1
        start = at + 6 + name + name % 2
        size = int.from_bytes(data[start : start + 4], "big")
        if number == IPTC_RESOURCE:
            return data[start + 4 : start + 4 + size]
        at = start + 4 + size + size % 2
    return b""


def resources_of(iptc: bytes) -> bytes:
    """IPTC datasets as the only image resource."""
    return RESOURCE + struct.pack(">HHI", IPTC_RESOURCE, 0, len(iptc)) + iptc + b"\0" * (len(iptc) % 2)


def jpeg_segments(exif: bytes, xmp: bytes, iptc: bytes) -> bytes:
    """The segments of a JPEG that carry metadata; a block that does not fit into one is left out."""
    resources = resources_of(iptc) if iptc else b""
    blocks = [(0xE1, b"Exif\0\0", exif), (0xE1, XMP_MARK, xmp), (0xED, RESOURCES_MARK, resources)]
    out = b""
    for marker, mark, block in blocks:
        content = mark + block
        if block and len(content) <= LONGEST_SEGMENT:
            out += struct.pack(">BBH", 0xFF, marker, len(content) + 2) + content
    return out


def jpeg_blocks(data: bytes) -> tuple[bytes, bytes]:
    """(XMP, IPTC) of a JPEG."""
    xmp, iptc = b"", b""
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF and data[at + 1] != 0xDA:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        content = data[at + 4 : end]
        if data[at + 1] == 0xE1 and content.startswith(XMP_MARK):
            xmp = content[len(XMP_MARK) :]
        if data[at + 1] == 0xED and content.startswith(RESOURCES_MARK):
            iptc = iptc_of_resources(content[len(RESOURCES_MARK) :])
        at = end
    return xmp, iptc


def png_chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    """(kind, content) of the chunks of a PNG before its end."""
    at = 8
    while at + 12 <= len(data):
        size = int.from_bytes(data[at : at + 4], "big")
        yield data[at + 4 : at + 8], data[at + 8 : at + 8 + size]
        at += 12 + size


def png_xmp(data: bytes) -> bytes:
    """The XMP of a PNG, or nothing."""
    for kind, content in png_chunks(data):
        if kind == b"iTXt" and content.startswith(XMP_KEYWORD + b"\0"):
            packed, rest = content[len(XMP_KEYWORD) + 1], content[len(XMP_KEYWORD) + 3 :]
            text = rest.split(b"\0", 2)[-1]
            return zlib.decompressobj().decompress(text, LARGEST) if packed else text
    return b""


def png_text(xmp: bytes) -> bytes:
    """The content of a PNG's chunk that carries XMP."""
    return XMP_KEYWORD + b"\0\0\0\0\0" + xmp


def jpeg_exif(data: bytes) -> bytes:
    """The EXIF block of a JPEG, without its mark."""
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF and data[at + 1] != 0xDA:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        if data[at + 1] == 0xE1 and data[at + 4 : end].startswith(b"Exif\0\0"):
            return data[at + 10 : end]
        at = end
    return b""
