"""WebP, AVIF, HEIF and JPEG XL, read. WebP is Pillow's; the decoders of the others run in a process of their own."""

from __future__ import annotations

from glyptic.formats.decoded import Raw
from glyptic.formats.exif import kept_of
from glyptic.formats.guarded import Answer, Limits, decoded
from glyptic.formats.icc import of_space
from glyptic.formats.pillow import open_header, read_pixels
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.pixels.spaces import DISPLAY_P3, SRGB, WIDE

JXL_SIGNATURES = (b"\xff\x0a", b"\x00\x00\x00\x0cJXL \r\n\x87\n")
AVIF_BRANDS, HEIF_BRANDS = (b"avif", b"avis"), (b"heic", b"heix", b"hevc", b"heim", b"heis", b"mif1", b"msf1")
PRIMARIES = {1: SRGB, 9: WIDE, 12: DISPLAY_P3}
"""By their number in ITU-T H.273."""
USUAL_CURVES = (1, 2, 6, 13, 14, 15)
"""Transfers by their number there that are taken for the curve of sRGB, as nearly all readers do."""
BRIGHTER = "Its light is coded for brighter screens than Glyptic works for; it was taken by sRGB's curve."


def _brands(source: Source) -> tuple[bytes, ...]:
    """The brands a file of boxes says it is of."""
    head = source.head
    return tuple(head[at : at + 4] for at in (8, *range(16, 32, 4))) if head[4:8] == b"ftyp" else ()


def is_webp(source: Source) -> bool:
    """Whether a file begins as a WebP does."""
    return source.head[:4] == b"RIFF" and source.head[8:12] == b"WEBP"


def is_avif(source: Source) -> bool:
    """Whether a file says that it is an AVIF."""
    return any(brand in AVIF_BRANDS for brand in _brands(source))


def is_heif(source: Source) -> bool:
    """Whether a file says that it is a HEIF."""
    return any(brand in HEIF_BRANDS for brand in _brands(source))


def is_jxl(source: Source) -> bool:
    """Whether a file begins as a JPEG XL does, bare or in boxes."""
    return source.head.startswith(JXL_SIGNATURES)


def size(source: Source, wish: Wish) -> tuple[int, int]:
    """Width and height, from the head alone."""
    return open_header(source.bytes).size


def read_webp(source: Source, wish: Wish) -> Raw:
    """A WebP, decoded here."""
    return read_pixels(open_header(source.bytes))


def _raw(found: Answer, profile: bytes = b"", notes: tuple[str, ...] = ()) -> Raw:
    exif, orientation = kept_of(found.exif)
    return Raw(
        found.samples, found.profile or profile, exif, 1 if found.turned else orientation, xmp=found.xmp,
        pages=found.pages, notes=notes,
    )  # fmt: skip


def read_avif(source: Source, wish: Wish, limits: Limits) -> Raw:
    """An AVIF, decoded in the child; its primaries stand in for a profile it has not."""
    found = decoded("avif", "AVIF", source, limits, page=wish.page)
    space = PRIMARIES.get(found.facts.get("primaries", 2))
    usual = found.facts.get("transfer", 2) in USUAL_CURVES
    notes = () if usual else (BRIGHTER,)
    return _raw(found, of_space(space) if space else b"", notes)


def read_heif(source: Source, wish: Wish, limits: Limits) -> Raw:
    """A HEIF, decoded in the child."""
    return _raw(decoded("heif", "HEIF", source, limits, page=wish.page))


def read_jxl(source: Source, wish: Wish, limits: Limits) -> Raw:
    """A JPEG XL, decoded in the child."""
    return _raw(decoded("jxl", "JPEG XL", source, limits))
