"""Reading a picture file: hostile until proven otherwise."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import PictureError, PictureTooLarge
from glyptic.formats import jpeg, png, tiff
from glyptic.formats.decoded import Decoded, Metadata, Raw
from glyptic.formats.pillow import DAMAGED
from glyptic.formats.profiles import grey_to_srgb, to_srgb
from glyptic.formats.room import let_go, room
from glyptic.formats.source import Source

DEFAULT_LIMIT = 100_000_000
"""Pixels a picture may have unless the setting is raised."""
LONGEST_SIDE = 300_000

BLOCK = 64 * 2**20
"""Bytes of samples that are turned into planes at a time."""

Reader = tuple[Callable[[Source], tuple[int, int]], Callable[[Source], Raw]]


def _reader_for(data: bytes) -> Reader:
    if not data:
        raise PictureError("The file is empty; nothing was changed. Choose a JPEG, PNG or TIFF.")
    if data.startswith(png.SIGNATURE):
        return png.size, png.read
    if data.startswith(jpeg.SIGNATURE):
        return jpeg.size, jpeg.read
    if data.startswith(tiff.SIGNATURES):
        return tiff.size, tiff.read
    raise PictureError("The file is no JPEG, PNG or TIFF picture; nothing was changed. Choose one of these.")


def read_picture(given: bytes | Path, limit: int = DEFAULT_LIMIT) -> Decoded:
    """Decode a JPEG, PNG or TIFF (its bytes, or the file) into the working space, EXIF orientation applied.

    limit: pixels the picture may have, checked before any pixel is decoded. Raises PictureError.
    """
    try:
        return _read(Source(given), limit)
    except PictureError:
        raise
    except MemoryError as error:
        raise PictureTooLarge("There is not enough memory for this picture. Nothing was changed.") from error
    except Exception as error:  # whatever a damaged file makes a decoder say
        raise PictureError(DAMAGED) from error


def _read(source: Source, limit: int) -> Decoded:
    size, read = _reader_for(source.head)
    width, height = size(source)
    if width < 1 or height < 1:
        raise PictureError("The picture has no pixels; nothing was changed.")
    if width * height > limit or max(width, height) > LONGEST_SIDE:
        raise PictureTooLarge(
            f"The picture measures {width} × {height}, {width * height / 1e6:.0f} megapixels; the limit is "
            f"{limit / 1e6:.0f}. Nothing was changed; raise the limit with --limit, or reduce the picture."
        )
    raw = read(source)
    if raw.samples.shape[:2] != (height, width):
        raise PictureError("The file's header and its content disagree; nothing was changed.")
    return _decoded(raw)


def _decoded(raw: Raw) -> Decoded:
    samples = raw.samples if raw.samples.ndim == 3 else raw.samples[:, :, None]
    height, width, channels = samples.shape
    has_alpha = channels in (2, 4)
    codes = room((3, height, width), np.uint16)
    planes = room((1, height, width), np.uint16) if has_alpha else None
    note = None
    rows = max(1, BLOCK // max(1, width * channels * samples.itemsize))
    for top in range(0, height, rows):
        block = samples[top : top + rows]
        carry, count = (grey_to_srgb, 1) if channels <= 2 else (to_srgb, 3)
        colour, note = carry(block[:, :, :count], raw.profile)
        _to_planes(colour, codes[:, top : top + rows])
        if planes is not None:
            _to_planes(block[:, :, -1:], planes[:, top : top + rows])
        let_go(samples)
    depth = 16 if samples.dtype == np.uint16 else 8
    upright = None if planes is None else _upright(planes, raw.orientation)
    let_go(codes)
    return Decoded(_upright(codes, raw.orientation), upright, depth, Metadata(raw.exif, (note,) if note else ()))


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
