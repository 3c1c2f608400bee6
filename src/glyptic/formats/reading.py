"""Reading a picture file: hostile until proven otherwise."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import PictureError, PictureTooLarge
from glyptic.formats import jpeg, png, tiff
from glyptic.formats.decoded import Decoded, Metadata, Raw
from glyptic.formats.profiles import to_srgb

DEFAULT_LIMIT = 100_000_000
"""Pixels a picture may have unless the setting is raised."""
LONGEST_SIDE = 300_000

Reader = tuple[Callable[[bytes], tuple[int, int]], Callable[[bytes], Raw]]


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


def read_picture(data: bytes, limit: int = DEFAULT_LIMIT) -> Decoded:
    """Decode a JPEG, PNG or TIFF into the working space, EXIF orientation applied.

    limit: pixels the picture may have, checked before any pixel is decoded. Raises PictureError.
    """
    size, read = _reader_for(data)
    width, height = size(data)
    if width < 1 or height < 1:
        raise PictureError("The picture has no pixels; nothing was changed.")
    if width * height > limit or max(width, height) > LONGEST_SIDE:
        raise PictureTooLarge(
            f"The picture measures {width} × {height}, {width * height / 1e6:.0f} megapixels; the limit is "
            f"{limit / 1e6:.0f}. Nothing was changed; raise the limit with --limit, or reduce the picture."
        )
    raw = read(data)
    if raw.samples.shape[:2] != (height, width):
        raise PictureError("The file's header and its content disagree; nothing was changed.")
    return _decoded(raw)


def _decoded(raw: Raw) -> Decoded:
    samples = raw.samples if raw.samples.ndim == 3 else raw.samples[:, :, None]
    depth = 16 if samples.dtype == np.uint16 else 8
    channels = samples.shape[2]
    alpha = samples[:, :, -1:] if channels in (2, 4) else None
    colour = samples[:, :, :1] if channels <= 2 else samples[:, :, :3]
    note = None
    if colour.shape[2] == 3:
        colour, note = to_srgb(colour, raw.profile)
    else:
        colour = np.repeat(colour, 3, axis=2)
    codes = _upright(_planar16(colour), raw.orientation)
    planes = None if alpha is None else _upright(_planar16(alpha), raw.orientation)
    return Decoded(codes, planes, depth, Metadata(raw.exif, (note,) if note else ()))


def _planar16(samples: NDArray[np.unsignedinteger]) -> NDArray[np.uint16]:
    planar = np.ascontiguousarray(np.moveaxis(samples, 2, 0))
    return planar if planar.dtype == np.uint16 else planar.astype(np.uint16) * np.uint16(257)


def _upright(planar: NDArray[np.uint16], orientation: int) -> NDArray[np.uint16]:
    """Turn and mirror as EXIF orientation 1..8 asks (TIFF 6.0, tag 274)."""
    if orientation in (5, 6, 7, 8):
        planar = planar.transpose(0, 2, 1)
    if orientation in (2, 3, 6, 7):
        planar = planar[:, :, ::-1]
    if orientation in (3, 4, 7, 8):
        planar = planar[:, ::-1]
    return np.ascontiguousarray(planar)
