"""Opening files with Pillow: the header first, the pixels only when the header is accepted."""

from __future__ import annotations

from io import BytesIO

import numpy as np
from PIL import Image

from glyptic.base.errors import PictureError
from glyptic.formats.decoded import Raw
from glyptic.formats.exif import kept_block, orientation_of

DAMAGED = "The file is damaged or cut short; it was not opened and nothing was changed. Copy it again from its source."
CHANNELS = {
    "L": "L",
    "LA": "LA",
    "RGB": "RGB",
    "RGBA": "RGBA",
    "1": "L",
    "P": "RGB",
    "PA": "RGBA",
    "I;16": "I;16",
    "CMYK": "CMYK",
}

Image.MAX_IMAGE_PIXELS = None  # sizes are checked against the setting before any pixel is read


def open_header(data: bytes) -> Image.Image:
    """The picture with its header read; raises PictureError where that fails."""
    try:
        return Image.open(BytesIO(data))
    except Exception as error:
        raise PictureError(DAMAGED) from error


def read_pixels(image: Image.Image) -> Raw:
    """Decode an opened 8-bit picture; raises PictureError for a damaged one."""
    try:
        image.load()
        profile = image.info.get("icc_profile", b"") or b""
        if image.mode == "P" and "transparency" in image.info:
            image = image.convert("RGBA")
        mode = CHANNELS.get(image.mode, "RGB")
        exif = image.getexif()
        if image.mode != mode:
            image = image.convert(mode)
        samples = np.asarray(image)
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError) as error:
        raise PictureError(DAMAGED) from error
    model = "cmyk" if mode == "CMYK" else ""
    xmp = image.info.get("xmp", b"") or b""
    return Raw(samples, profile, kept_block(exif), orientation_of(exif), model, xmp if isinstance(xmp, bytes) else b"")
