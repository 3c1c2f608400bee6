"""Formats that are written in one piece: WebP, AVIF and JPEG XL. Their writers hold the whole picture."""

from __future__ import annotations

import struct
from collections.abc import Iterable
from typing import BinaryIO

import imagecodecs
import numpy as np
from PIL import Image

from glyptic.base.errors import ExportError
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Samples, Sheet

LONGEST_WEBP, LONGEST_AVIF = 16_383, 65_536
EFFORT_WEBP, SPEED_AVIF, EFFORT_JXL = 4, 7, 5
LOSSLESS = 100
EXIF_MARK = b"Exif\0\0"


def _image(bands: Iterable[Samples]) -> Image.Image:
    return Image.fromarray(np.ascontiguousarray(np.concatenate(list(bands))))


def _held(sheet: Sheet, longest: int, title: str) -> None:
    if max(sheet.width, sheet.height) > longest:
        raise ExportError(f"{title} has at most {longest} pixels a side. Nothing was written; choose TIFF or PNG.")


def write_webp(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits; without loss at quality 100."""
    _held(sheet, LONGEST_WEBP, "A WebP")
    exif = EXIF_MARK + metadata.exif if metadata.exif else b""
    lossless = quality == LOSSLESS
    _image(bands).save(
        stream, "WEBP", quality=quality, lossless=lossless, exact=lossless, method=EFFORT_WEBP,
        icc_profile=sheet.profile, exif=exif, xmp=metadata.xmp,
    )  # fmt: skip


def write_avif(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits, chroma at full resolution."""
    _held(sheet, LONGEST_AVIF, "An AVIF")
    exif = EXIF_MARK + metadata.exif if metadata.exif else b""
    more = {"exif": exif} if exif else {}
    _image(bands).save(
        stream, "AVIF", quality=quality, speed=SPEED_AVIF, subsampling="4:4:4", icc_profile=sheet.profile,
        **({"xmp": metadata.xmp} if metadata.xmp else {}), **more,
    )  # fmt: skip


def write_jxl(stream: BinaryIO, sheet: Sheet, bands: Iterable[Samples], quality: int, metadata: Metadata) -> None:
    """8 bits of sRGB, which is what its writer marks them as (16 it marks as linear light); without loss at quality
    100."""
    samples = np.ascontiguousarray(np.concatenate(list(bands)))
    how = {"lossless": True} if quality == LOSSLESS else {"distance": distance(quality), "lossless": False}
    stream.write(imagecodecs.jpegxl_encode(samples, effort=EFFORT_JXL, usecontainer=True, **how))
    if metadata.exif:
        stream.write(_box(b"Exif", b"\0\0\0\0" + metadata.exif))
    if metadata.xmp:
        stream.write(_box(b"xml ", metadata.xmp))


def distance(quality: int) -> float:
    """The distance at which JPEG XL looks about as JPEG does at a quality: 1 is hardly seen."""
    return 0.1 + (100 - quality) * 0.09 if quality >= 30 else 53 / 3000 * quality**2 - 23 / 20 * quality + 25


def _box(kind: bytes, content: bytes) -> bytes:
    return struct.pack(">I4s", len(content) + 8, kind) + content
