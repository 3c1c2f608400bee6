"""Opening files with Pillow: the header first, the pixels only when the header is accepted."""

from __future__ import annotations

from io import BytesIO

import numpy as np
from PIL import Image, ImageCms

from glyptic.base.errors import PictureError
from glyptic.formats.decoded import Raw
from glyptic.formats.exif import kept_block, orientation_of
from glyptic.formats.profiles import srgb_profile

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
        if image.mode == "CMYK":
            image, profile = _from_cmyk(image, profile), b""
        if image.mode == "P" and "transparency" in image.info:
            image = image.convert("RGBA")
        mode = CHANNELS.get(image.mode, "RGB")
        exif = image.getexif()
        if image.mode != mode:
            image = image.convert(mode)
        samples = np.asarray(image)
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError) as error:
        raise PictureError(DAMAGED) from error
    return Raw(samples, profile, kept_block(exif), orientation_of(exif))


def _from_cmyk(image: Image.Image, profile: bytes) -> Image.Image:
    if profile:
        try:
            converted = ImageCms.profileToProfile(
                image, ImageCms.ImageCmsProfile(BytesIO(profile)),
                ImageCms.ImageCmsProfile(BytesIO(srgb_profile())), outputMode="RGB",
            )  # fmt: skip
            if converted is not None:
                return converted
        except ImageCms.PyCMSError:
            pass
    return image.convert("RGB")
