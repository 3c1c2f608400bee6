"""PNG, 8 and 16 bits (W3C PNG, third edition)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import BinaryIO

import imagecodecs
import numpy as np
from isal import isal_zlib
from numpy.typing import NDArray

from glyptic.base.errors import PictureError
from glyptic.decoders.blocks import LARGEST, png_chunks, png_text, png_xmp
from glyptic.formats.decoded import Metadata, Raw
from glyptic.formats.exif import kept_block, orientation_of
from glyptic.formats.icc import of_space
from glyptic.formats.modern import PRIMARIES
from glyptic.formats.pillow import DAMAGED, open_header, read_pixels
from glyptic.formats.sheet import Samples, Sheet, in_order, strips
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.pixels.compiled import kernel
from glyptic.pixels.spaces import SRGB

SIGNATURE = b"\x89PNG\r\n\x1a\n"
END_OF_HEADER = 33
ROWS = 64
DEFLATE_LEVEL = 1
RUNS, NO_FILTER = 3, 8
"""zlib's strategy Z_RLE, and libpng's PNG_FILTER_NONE."""
ZLIB_HEADER = b"\x78\x5e"


def size(source: Source, wish: Wish) -> tuple[int, int]:
    """Width and height from the header chunk."""
    data = source.bytes
    if len(data) < END_OF_HEADER or data[12:16] != b"IHDR":
        raise PictureError(DAMAGED)
    width, height = struct.unpack(">II", data[16:24])
    return width, height


def read(source: Source, wish: Wish) -> Raw:
    data = source.bytes
    if data[24] != 16:
        return replace(read_pixels(open_header(data)), xmp=png_xmp(data), profile=_profile(data))
    image = open_header(data)
    try:
        samples = imagecodecs.png_decode(data)
    except Exception as error:
        raise PictureError(DAMAGED) from error
    exif = image.getexif()
    return Raw(samples, _profile(data), kept_block(exif), orientation_of(exif), xmp=png_xmp(data))


def _profile(data: bytes) -> bytes:
    """What a PNG says of its colours: code points first, then a profile, then that it is sRGB."""
    found = dict(png_chunks(data))
    if len(found.get(b"cICP", b"")) >= 2 and found[b"cICP"][0] in PRIMARIES:
        return of_space(PRIMARIES[found[b"cICP"][0]])
    if b"iCCP" in found:
        _, _, packed = found[b"iCCP"].partition(b"\0")
        return zlib.decompressobj().decompress(packed[1:], LARGEST)
    return of_space(SRGB) if b"sRGB" in found else b""


def _chunk(kind: bytes, content: bytes) -> bytes:
    crc = isal_zlib.crc32(kind + content)
    return struct.pack(">I", len(content)) + kind + content + struct.pack(">I", crc)


@kernel
def _filtered(rows: NDArray[np.uint8], bpp: int, out: NDArray[np.uint8]) -> None:
    """Filter 4 (Paeth) of every row but the first, which is the one above; rows (h + 1, n), out (h, n + 1)."""
    for i in range(out.shape[0]):
        out[i, 0] = 4
        for j in range(rows.shape[1]):
            a = np.int16(rows[i + 1, j - bpp]) if j >= bpp else np.int16(0)
            c = np.int16(rows[i, j - bpp]) if j >= bpp else np.int16(0)
            b = np.int16(rows[i, j])
            pa, pb, pc = abs(b - c), abs(a - c), abs(a + b - c - c)
            best = a if pa <= pb and pa <= pc else (b if pb <= pc else c)
            out[i, j + 1] = np.uint8((np.int16(rows[i + 1, j]) - best) & 255)


def _filtered_strips(sheet: Sheet, bands: Iterable[Samples]) -> Iterator[NDArray[np.uint8]]:
    """Filtered rows of each strip, (h, 1 + bytes of a row)."""
    above = np.zeros((1, sheet.width * sheet.channels * sheet.depth // 8), np.uint8)
    for strip in strips(bands, ROWS):
        plain = np.ascontiguousarray(strip, sheet.dtype.newbyteorder(">")).view(np.uint8).reshape(len(strip), -1)
        out = np.empty((len(strip), 1 + plain.shape[1]), np.uint8)
        _filtered(np.concatenate([above, plain]), sheet.channels * sheet.depth // 8, out)
        above = plain[-1:].copy()
        yield out


def encode_grey(codes: NDArray[np.uint8]) -> bytes:
    """The PNG file of a grey picture (h, w) of 8 bits. Masks are runs of one value: without filters, and packed as
    runs, they are smaller and done four times as fast."""
    return bytes(imagecodecs.png_encode(codes, level=1, strategy=RUNS, filter=NO_FILTER))


def _deflated(rows: Samples) -> tuple[bytes, Samples]:
    """A run of a deflate stream that ends on a byte and refers to nothing before it, and what it holds."""
    packer = isal_zlib.compressobj(DEFLATE_LEVEL, wbits=-15)
    return packer.compress(rows.data) + packer.flush(isal_zlib.Z_FULL_FLUSH), rows


def write(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 or 16 bits; one run of the deflate stream and one IDAT chunk to a strip, so that strips are packed at once."""
    colour_type = 6 if sheet.channels == 4 else 2
    stream.write(SIGNATURE)
    header = struct.pack(">IIBBBBB", sheet.width, sheet.height, sheet.depth, colour_type, 0, 0, 0)
    stream.write(_chunk(b"IHDR", header))
    stream.write(_chunk(b"iCCP", b"ICC\x00\x00" + zlib.compress(sheet.profile)))
    if sheet.dpi:
        per_metre = round(sheet.dpi / 0.0254)
        stream.write(_chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1)))
    if metadata.exif:
        stream.write(_chunk(b"eXIf", metadata.exif))
    if metadata.xmp:
        stream.write(_chunk(b"iTXt", png_text(metadata.xmp)))
    check, start = 1, ZLIB_HEADER
    for content, rows in in_order(_deflated, _filtered_strips(sheet, bands)):
        stream.write(_chunk(b"IDAT", start + content))
        check, start = isal_zlib.adler32(rows.data, check), b""
    stream.write(_chunk(b"IDAT", zlib.compressobj(wbits=-15).flush() + struct.pack(">I", check)))
    stream.write(_chunk(b"IEND", b""))
