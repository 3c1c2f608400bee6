"""The camera's metadata: which of it is kept, and how it is written again."""

from __future__ import annotations

import struct
from datetime import datetime
from typing import BinaryIO

from PIL import Image
from PIL.TiffImagePlugin import ImageFileDirectory_v2

ORIENTATION = 0x0112
EXIF_IFD = 0x8769
GPS_IFD = 0x8825
KEPT = (0x010E, 0x010F, 0x0110, 0x0131, 0x0132, 0x013B, 0x8298)
"""Description, make, model, software, date, artist, copyright of the first directory."""
TEXT_TYPE = 2
MARK = b"Exif\x00\x00"


def orientation_of(exif: Image.Exif) -> int:
    """1..8; anything else counts as 1."""
    value = exif.get(ORIENTATION, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def as_bytes(value: object) -> object:
    """A text that is not ASCII as the bytes it was read from: Pillow takes each byte for a letter and writes "?"."""
    return value.encode("latin-1", "replace") if isinstance(value, str) and not value.isascii() else value


def kept_block(exif: Image.Exif) -> bytes:
    """The part of the metadata that is kept, as a TIFF-structured block without thumbnail; empty if there is none."""
    kept = Image.Exif()
    for tag in KEPT:
        if tag in exif:
            kept[tag] = as_bytes(exif[tag])
    for ifd in (EXIF_IFD, GPS_IFD):
        inner = exif.get_ifd(ifd)
        if inner:
            kept.get_ifd(ifd).update({k: as_bytes(v) for k, v in inner.items() if k != 0xA005})
    if not len(kept) and not kept.get_ifd(EXIF_IFD) and not kept.get_ifd(GPS_IFD):
        return b""
    try:
        return kept.tobytes().removeprefix(b"Exif\x00\x00")
    except (ValueError, TypeError, OverflowError, KeyError, AttributeError):
        return b""


def load(block: bytes) -> Image.Exif:
    exif = Image.Exif()
    if block:
        exif.load(b"Exif\x00\x00" + block)
    return exif


TAKEN, TAKEN_AS = 0x9003, "%Y:%m:%d %H:%M:%S"


def taken_at(block: bytes) -> datetime | None:
    """When the picture was taken, by the camera's own clock; None where that is not said, or not in EXIF's words."""
    said = load(block).get_ifd(EXIF_IFD).get(TAKEN)
    try:
        return datetime.strptime(str(said).strip("\0 "), TAKEN_AS)
    except ValueError:
        return None


def first_directory_texts(block: bytes) -> list[tuple[int, bytes]]:
    """(tag, text) of the first directory, as it is written."""
    texts = [(tag, value) for tag, value in load(block).items() if tag in KEPT and isinstance(value, str)]
    return [(tag, value.encode("latin-1", "replace")) for tag, value in texts]


CLASSIC_HEADER = b"II\x2a\x00\x08\x00\x00\x00"
BIG_HEADER = b"II\x2b\x00\x08\x00\x00\x00" + (16).to_bytes(8, "little")


def directory_bytes(block: bytes, ifd: int, offset: int, big: bool = False) -> bytes:
    """One inner directory laid out for a place in a little-endian file, or BigTIFF; empty if there is none."""
    inner = load(block).get_ifd(ifd)
    if not inner:
        return b""
    directory = ImageFileDirectory_v2(BIG_HEADER if big else CLASSIC_HEADER)
    for tag, value in inner.items():
        directory[tag] = as_bytes(value)
    return bytes(directory.tobytes(offset))


def kept_of(block: bytes) -> tuple[bytes, int]:
    """The kept block and the orientation of an EXIF block, which may begin with its mark."""
    exif = Image.Exif()
    try:
        exif.load(block if block.startswith(MARK) else MARK + block)
        return kept_block(exif), orientation_of(exif)
    except (OSError, SyntaxError, ValueError, TypeError, KeyError, AttributeError):
        return b"", 1


def read_block(stream: BinaryIO) -> tuple[bytes, int]:
    """The kept block and the orientation of a TIFF-structured stream (a TIFF file, or an EXIF block)."""
    try:
        exif = _big(stream) if stream.read(4) == BIG_HEADER[:4] else _classic(stream)
        return kept_block(exif), orientation_of(exif)
    except (OSError, SyntaxError, ValueError, TypeError, KeyError, AttributeError, struct.error):
        return b"", 1


def _classic(stream: BinaryIO) -> Image.Exif:
    stream.seek(0)
    exif = Image.Exif()
    exif.load_from_fp(stream)
    return exif


def _big(stream: BinaryIO) -> Image.Exif:
    """The metadata of a little-endian BigTIFF, which Pillow reads directory by directory only."""

    def directory(at: int) -> dict[int, object]:
        found = ImageFileDirectory_v2(BIG_HEADER)
        stream.seek(at)
        found.load(stream)
        return dict(found)

    stream.seek(8)
    first = directory(int.from_bytes(stream.read(8), "little"))
    exif = Image.Exif()
    exif.update({tag: value for tag, value in first.items() if tag in (*KEPT, ORIENTATION)})
    for inner in (EXIF_IFD, GPS_IFD):
        at = first.get(inner)
        if isinstance(at, int):
            exif.get_ifd(inner).update(directory(at))
    return exif
