"""A JPEG of one pixel that carries blocks of metadata, so that a library for files can work on them."""

from __future__ import annotations

import base64
import io
from typing import Any

from PIL import Image

from glyptic.decoders.blocks import jpeg_blocks, jpeg_exif, jpeg_segments

START = b"\xff\xd8"
NAMES = ("exif", "xmp", "iptc")


def carrier(told: dict[str, Any]) -> bytes:
    """The JPEG, from blocks in base 64."""
    buffer = io.BytesIO()
    Image.new("L", (1, 1)).save(buffer, "JPEG")
    segments = jpeg_segments(*(base64.b64decode(told[name]) for name in NAMES))
    return START + segments + buffer.getvalue()[len(START) :]


def carried_blocks(data: bytes) -> dict[str, str]:
    """The blocks of a JPEG in base 64."""
    xmp, iptc = jpeg_blocks(data)
    return {
        name: base64.b64encode(block).decode() for name, block in zip(NAMES, (jpeg_exif(data), xmp, iptc), strict=True)
    }
