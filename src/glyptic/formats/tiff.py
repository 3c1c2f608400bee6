"""TIFF, 8 and 16 bits (TIFF 6.0), read and written with tifffile."""

from __future__ import annotations

import struct
from collections.abc import Iterable
from itertools import islice
from typing import Any, BinaryIO

import imagecodecs
import numpy as np
import tifffile
from isal import isal_zlib
from numpy.typing import NDArray

from glyptic.base.errors import PictureError
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.exif import (
    EXIF_IFD,
    GPS_IFD,
    TEXT_TYPE,
    directory_bytes,
    first_directory_texts,
    read_block,
)
from glyptic.formats.pillow import DAMAGED
from glyptic.formats.profiles import CHANNELS
from glyptic.formats.room import room
from glyptic.formats.sheet import Samples, Sheet, in_order, strips
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.pixels.quantise import rounded

SIGNATURES = (b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+")
PROFILE_TAG = 34675
MODELS = {"RGB": "rgb", "MINISBLACK": "gray", "MINISWHITE": "gray", "SEPARATED": "cmyk"}
DTYPES = ("uint8", "uint16", "float16", "float32")
XMP_TAG, IPTC_TAG = 700, 33723
BYTE_TYPE, UNDEFINED_TYPE = 1, 7
ASSOCIATED_ALPHA = 1
LONG_TYPE, LONG8_TYPE = 4, 16
ROWS = 64
MOST_PAGES = 99
"""That are looked for in a file."""
DEFLATE_LEVEL, ZSTD_LEVEL = 1, 3
LARGEST_CLASSIC = 2**32 - 2**25
"""Bytes of samples up to which offsets of 32 bits are enough whatever packing makes of them. A larger file is a
BigTIFF."""
STAND_IN = {EXIF_IFD: EXIF_IFD - 1, GPS_IFD: GPS_IFD - 1}
"""tifffile writes no inner directories: unused tags next to theirs are written, then given their number."""


def _pages(stream: BinaryIO) -> list[Any]:
    """The pictures of a file: its pages but for those that say they are small copies of others."""
    try:
        pages = [page for page in islice(tifffile.TiffFile(stream).pages, MOST_PAGES) if page is not None]
    except Exception as error:
        raise PictureError(DAMAGED) from error
    return [page for page in pages if not getattr(page, "is_reduced", False)] or pages[:1]


def _page(stream: BinaryIO, number: int) -> tuple[Any, int]:
    """A page by its number, from 1, and how many there are."""
    pages = _pages(stream)
    if not pages:
        raise PictureError(DAMAGED)
    if not 1 <= number <= len(pages):
        raise PictureError(f"The file holds {len(pages)} pictures; there is no page {number}. Nothing was changed.")
    return pages[number - 1], len(pages)


def size(source: Source, wish: Wish) -> tuple[int, int]:
    with source.open() as stream:
        page, _ = _page(stream, wish.page)
        return int(page.imagewidth), int(page.imagelength)


def read(source: Source, wish: Wish) -> Raw:
    with source.open() as stream:
        page, count = _page(stream, wish.page)
        photometric = getattr(page.photometric, "name", str(page.photometric))
        if page.dtype is None or page.dtype.name not in DTYPES:
            raise PictureError(
                f"This TIFF holds {page.dtype or 'unknown'} samples; Glyptic reads 8 and 16 bits, and floats. "
                "Nothing was changed; save it with 8 or 16 bits a channel."
            )
        if photometric not in MODELS:
            raise PictureError(
                f"This TIFF stores its colours as {photometric.lower()}; Glyptic reads RGB, CMYK and grey. "
                "Nothing was changed; save it as RGB."
            )
        try:
            samples = np.asarray(page.asarray(out=room(page.shape, page.dtype)))
        except Exception as error:
            raise PictureError(DAMAGED) from error
        samples, notes = _whole_numbers(_interleaved(samples, page))
        if photometric == "MINISWHITE":
            samples = np.iinfo(samples.dtype).max - samples
        profile = page.tags[PROFILE_TAG].value if PROFILE_TAG in page.tags else b""
        stream.seek(0)
        exif, orientation = read_block(stream)
        return Raw(
            samples, bytes(profile), exif, orientation, MODELS[photometric], _block(page, XMP_TAG),
            _block(page, IPTC_TAG), count, notes,
        )  # fmt: skip


def _block(page: Any, tag: int) -> bytes:
    """The bytes of a tag; none where it is not there."""
    value = page.tags[tag].value if tag in page.tags else b""
    return value if isinstance(value, bytes) else bytes(np.asarray(value).tobytes()) if tag == IPTC_TAG else b""


def _whole_numbers(samples: NDArray[Any]) -> tuple[NDArray[np.unsignedinteger], tuple[str, ...]]:
    """Samples as they are, or floating ones, which are taken as 0..1, as 16 bits; and what is to be said."""
    if samples.dtype.kind != "f":
        return samples, ()
    out = room(samples.shape, np.uint16)
    beyond = False
    for top in range(0, len(samples), ROWS):
        part = np.nan_to_num(np.asarray(samples[top : top + ROWS], np.float64), posinf=1, neginf=0)
        beyond |= bool(part.size and (part.min() < 0 or part.max() > 1))
        out[top : top + ROWS] = rounded(part, 65535)
    notes = ("Its samples are floating; they were taken as 0 to 1 and rounded to 16 bits.",)
    return out, (*notes, "Some lay beyond 0 to 1, and were clipped.") if beyond else notes


def _interleaved(samples: NDArray[Any], page: Any) -> NDArray[Any]:
    """(h, w) or (h, w, channels) with alpha not multiplied in; further channels are left out."""
    samples = samples.reshape([n for n in samples.shape if n != 1] or [1])
    if samples.ndim == 3 and page.planarconfig == 2:
        samples = np.moveaxis(samples, 0, 2)
    height, width = int(page.imagelength), int(page.imagewidth)
    samples = samples.reshape(height, width, -1)
    colours = CHANNELS[MODELS[page.photometric.name]]
    extra = tuple(page.extrasamples or ())
    has_alpha = bool(extra) and int(extra[0]) in (1, 2)
    if not has_alpha:
        return samples[:, :, :colours]
    if int(extra[0]) != ASSOCIATED_ALPHA:
        return samples[:, :, : colours + 1]
    for top in range(0, height, ROWS):
        _part(samples[top : top + ROWS, :, : colours + 1])
    return samples[:, :, : colours + 1]


def _part(samples: NDArray[Any]) -> None:
    """Take the alpha out of colours that it is multiplied into, in place; (h, w, colours and alpha)."""
    top = np.iinfo(samples.dtype).max
    alpha = samples[:, :, -1:].astype(np.float64)
    colours = samples[:, :, :-1] * float(top)
    plain = np.divide(colours, alpha, out=np.zeros_like(colours), where=alpha > 0)
    samples[:, :, :-1] = np.floor(np.clip(plain, 0, top) + 0.5)


def _packed(strip: Samples) -> bytes:
    """A strip with the horizontal predictor, deflated."""
    return isal_zlib.compress(imagecodecs.delta_encode(strip, axis=1).tobytes(), DEFLATE_LEVEL)


def _packed_by_zstd(strip: Samples) -> bytes:
    """A strip with the horizontal predictor, packed by Zstandard."""
    return bytes(imagecodecs.zstd_encode(imagecodecs.delta_encode(strip, axis=1).tobytes(), level=ZSTD_LEVEL))


def write(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """Strips of deflated samples, 8 or 16 bits; past 4 GB as BigTIFF."""
    _write(stream, sheet, in_order(_packed, strips(bands, ROWS)), metadata, "zlib")


def write_zstd(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """As `write`, packed by Zstandard: smaller and quicker, and fewer programs read it."""
    _write(stream, sheet, in_order(_packed_by_zstd, strips(bands, ROWS)), metadata, "zstd")


def _write(stream: BinaryIO, sheet: Sheet, packed: Iterable[bytes], metadata: Metadata, compression: str) -> None:
    inner = [ifd for ifd in (EXIF_IFD, GPS_IFD) if directory_bytes(metadata.exif, ifd, 0)]
    extratags: list[tuple[int, int, int, Any, bool]] = [
        (tag, TEXT_TYPE, 0, text, True) for tag, text in first_directory_texts(metadata.exif)
    ]
    large = int(np.prod(sheet.shape)) * sheet.dtype.itemsize > LARGEST_CLASSIC
    extratags += [(STAND_IN[ifd], LONG8_TYPE if large else LONG_TYPE, 1, 0, True) for ifd in inner]
    if metadata.xmp:
        extratags.append((XMP_TAG, BYTE_TYPE, len(metadata.xmp), metadata.xmp, True))
    if metadata.iptc:
        extratags.append((IPTC_TAG, UNDEFINED_TYPE, len(metadata.iptc), metadata.iptc, True))
    photometric = "rgb" if sheet.model == "rgb" else "separated"
    tifffile.imwrite(
        stream, packed, shape=sheet.shape, dtype=sheet.dtype, photometric=photometric,
        compression=compression, predictor=True, iccprofile=sheet.profile, bigtiff=large,
        extrasamples=["unassalpha"] if sheet.has_alpha else None, extratags=extratags, metadata=None,
        software=False, resolution=(sheet.dpi, sheet.dpi) if sheet.dpi else None, resolutionunit=2,
        rowsperstrip=ROWS, byteorder="<",
    )  # fmt: skip
    for ifd in inner:
        _append_directory(stream, ifd, metadata.exif, large)


def _append_directory(buffer: BinaryIO, ifd: int, exif: bytes, big: bool) -> None:
    """Put an inner directory at the end of the file and turn its stand-in tag into a pointer to it."""
    offset = buffer.seek(0, 2)
    buffer.write(b"\x00" * (offset % 2))
    offset += offset % 2
    buffer.write(directory_bytes(exif, ifd, offset, big))
    buffer.seek(0)
    tag = tifffile.TiffFile(buffer).pages[0].tags[STAND_IN[ifd]]
    buffer.seek(tag.offset)
    buffer.write(struct.pack("<H", ifd))
    buffer.seek(tag.valueoffset)
    buffer.write(struct.pack("<Q" if big else "<I", offset))
