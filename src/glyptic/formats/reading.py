"""Reading a picture file: hostile until proven otherwise."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import PictureError, PictureTooLarge
from glyptic.formats import jpeg, modern, openraster, png, raw, tiff
from glyptic.formats.decoded import Decoded, Metadata, Raw
from glyptic.formats.guarded import Limits
from glyptic.formats.pillow import DAMAGED
from glyptic.formats.press import press_profile
from glyptic.formats.profiles import CHANNELS, Meaning, meaning
from glyptic.formats.room import let_go, room
from glyptic.formats.source import Source
from glyptic.formats.wish import ANY, Wish

DEFAULT_LIMIT = 100_000_000
"""Pixels a picture may have unless the setting is raised."""
LONGEST_SIDE = 300_000

BLOCK = 64 * 2**20
"""Bytes of samples that are turned into planes at a time."""


@dataclass(frozen=True)
class Readable:
    """A format that can be read. is_it: whether a file is of it, by its first bytes and, where these are shared, by
    more. read: its samples; the limits are to be kept before any pixel is decoded."""

    title: str
    suffixes: tuple[str, ...]
    is_it: Callable[[Source], bool]
    read: Callable[[Source, Wish, Limits], Raw]


Sized = Callable[[Source, Wish], tuple[int, int]]


def _sized(size: Sized, read: Callable[[Source, Wish], Raw]) -> Callable[[Source, Wish, Limits], Raw]:
    """A reader that knows a file's size first."""

    def checked(source: Source, wish: Wish, limits: Limits) -> Raw:
        width, height = size(source, wish)
        if width < 1 or height < 1 or width * height > limits.most or max(width, height) > limits.longest:
            raise limits.too_large(width, height)
        found = read(source, wish)
        if found.samples.shape[:2] != (height, width):
            raise PictureError("The file's header and its content disagree; nothing was changed.")
        return found

    return checked


def _starts(*signatures: bytes) -> Callable[[Source], bool]:
    return lambda source: source.head.startswith(signatures)


READABLE = (
    Readable("JPEG", (".jpg", ".jpeg"), _starts(jpeg.SIGNATURE), _sized(jpeg.size, jpeg.read)),
    Readable("PNG", (".png",), _starts(png.SIGNATURE), _sized(png.size, png.read)),
    Readable("raw", raw.SUFFIXES, raw.is_raw, raw.read),
    Readable("TIFF", (".tif", ".tiff"), _starts(*tiff.SIGNATURES), _sized(tiff.size, tiff.read)),
    Readable("WebP", (".webp",), modern.is_webp, _sized(modern.size, modern.read_webp)),
    Readable("AVIF", (".avif",), modern.is_avif, modern.read_avif),
    Readable("HEIF", (".heic", ".heif"), modern.is_heif, modern.read_heif),
    Readable("JPEG XL", (".jxl",), modern.is_jxl, modern.read_jxl),
    Readable("OpenRaster", (".ora",), openraster.is_openraster, openraster.read_merged),
)
"""In the order they are looked for: most raw files begin as a TIFF does."""
SUFFIXES = tuple(suffix for one in READABLE for suffix in one.suffixes)
TITLES = f"{', '.join(one.title for one in READABLE[:-1])} or {READABLE[-1].title}"


def format_of(source: Source) -> Readable:
    """The format of a file; raises PictureError for one that is not known."""
    if not source.head:
        raise PictureError(f"The file is empty; nothing was changed. Choose a {TITLES} picture.")
    for one in READABLE:
        if one.is_it(source):
            return one
    raise PictureError(f"The file is no {TITLES} picture; nothing was changed. Choose one of these.")


def read_picture(given: bytes | Path, limit: int = DEFAULT_LIMIT, wish: Wish = ANY) -> Decoded:
    """Decode a picture file (its bytes, or the file) into a working space, EXIF orientation applied.

    limit: pixels the picture may have, checked before any pixel is decoded. Raises PictureError.
    """
    try:
        return _read(Source(given), limit, wish)
    except PictureError:
        raise
    except MemoryError as error:
        raise PictureTooLarge("There is not enough memory for this picture. Nothing was changed.") from error
    except Exception as error:  # whatever a damaged file makes a decoder say
        raise PictureError(DAMAGED) from error


def limits_of(limit: int) -> Limits:
    """What is refused for its size, and in which words."""

    def too_large(width: int, height: int) -> PictureError:
        if width < 1 or height < 1:
            return PictureError("The picture has no pixels; nothing was changed.")
        return PictureTooLarge(
            f"The picture measures {width} × {height}, {width * height / 1e6:.0f} megapixels; the limit is "
            f"{limit / 1e6:.0f}. Nothing was changed; raise the limit with --limit, or reduce the picture."
        )

    return Limits(limit, LONGEST_SIDE, too_large)


def _read(source: Source, limit: int, wish: Wish) -> Decoded:
    kind = format_of(source)
    return replace(_decoded(kind.read(source, wish, limits_of(limit)), wish), format=kind.title)


def _meaning(found: Raw, wish: Wish) -> Meaning:
    inks = press_profile() if found.colours == "cmyk" else b""
    return meaning(found.profile, found.colours, wish.into, wish.assumed, inks)


def _decoded(found: Raw, wish: Wish) -> Decoded:
    samples = found.samples if found.samples.ndim == 3 else found.samples[:, :, None]
    height, width, channels = samples.shape
    if not width or not height:
        raise PictureError("The picture has no pixels; nothing was changed.")
    meant = _meaning(found, wish)
    colours = CHANNELS[found.colours]
    codes = room((3, height, width), np.uint16)
    planes = room((1, height, width), np.uint16) if channels > colours else None
    rows = max(1, BLOCK // max(1, width * channels * samples.itemsize))
    for top in range(0, height, rows):
        block = samples[top : top + rows]
        _to_planes(meant.carry(block[:, :, :colours]), codes[:, top : top + rows])
        if planes is not None:
            _to_planes(block[:, :, -1:], planes[:, top : top + rows])
        let_go(samples)
    depth = 16 if samples.dtype == np.uint16 else 8
    upright = None if planes is None else _upright(planes, found.orientation)
    let_go(codes)
    metadata = Metadata(found.exif, (*found.notes, *meant.notes), found.xmp, found.iptc)
    return Decoded(
        _upright(codes, found.orientation),
        upright,
        depth,
        metadata,
        meant.space,
        meant.name,
        meant.assumed,
        found.pages,
    )


def _to_planes(samples: NDArray[np.unsignedinteger], out: NDArray[np.unsignedinteger]) -> None:
    """Samples (h, w, channels) of 8 or 16 bits into planes (c, h, w) of 16; one channel goes to all."""
    planar = np.moveaxis(samples, 2, 0)
    if samples.dtype == np.uint16:
        out[:] = planar
    else:
        np.multiply(planar, np.uint16(257), out=out, dtype=np.uint16)


def _upright(planar: NDArray[np.unsignedinteger], orientation: int) -> NDArray[np.uint16]:
    """Turn and mirror as EXIF orientation 1..8 asks (TIFF 6.0, tag 274)."""
    turned = planar
    if orientation in (5, 6, 7, 8):
        turned = turned.transpose(0, 2, 1)
    if orientation in (2, 3, 6, 7):
        turned = turned[:, :, ::-1]
    if orientation in (3, 4, 7, 8):
        turned = turned[:, ::-1]
    if orientation in range(2, 9):
        out = room(turned.shape, np.uint16)
        out[:] = turned
        turned = out
    return turned.astype(np.uint16, copy=False)
