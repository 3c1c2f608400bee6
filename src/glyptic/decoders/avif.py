"""AVIF, 8 to 12 bits: pixels by libavif in imagecodecs; profile and metadata by Pillow, which gives 8 bits only."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from PIL import Image

from glyptic.decoders.found import Fits, Found, Refused, spread

PRIMARIES_AT, TRANSFER_AT = 4, 6


def _described(data: bytes) -> tuple[int, int]:
    """The colour primaries and transfer by number (ITU-T H.273), where the file names them so; else (2, 2)."""
    at = data.find(b"colrnclx")
    if at < 0:
        return 2, 2
    start = at + 8
    return int.from_bytes(data[start : start + 2], "big"), int.from_bytes(data[start + 2 : start + 4], "big")


def read(path: str, fits: Fits, asked: dict[str, Any]) -> Found:
    data = Path(path).read_bytes()
    with Image.open(path) as image:
        fits(*image.size)
        pages = getattr(image, "n_frames", 1)
        info = dict(image.info)
    if not 1 <= asked["page"] <= pages:
        raise Refused(f"The file holds {pages} pictures; there is no page {asked['page']}.")
    samples = imagecodecs.avif_decode(data, index=asked["page"] - 1)
    if samples.ndim == 2:
        samples = samples[:, :, None]
    bits = 8 if samples.dtype == np.uint8 else _bits(data)
    named = _described(data)
    return Found(
        spread(samples, bits), info.get("icc_profile") or b"", info.get("exif") or b"", info.get("xmp") or b"", pages,
        True, {"primaries": named[0], "transfer": named[1]},
    )  # fmt: skip


def _bits(data: bytes) -> int:
    """Bits a channel of a file that has more than 8 (AV1 codec configuration: high bit depth, twelve bit)."""
    at = data.find(b"av1C")
    return 12 if at >= 0 and data[at + 6] & 0x20 else 10
