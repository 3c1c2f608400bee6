"""HEIF, 8 to 12 bits."""

from __future__ import annotations

from typing import Any

import numpy as np
import pillow_heif

from glyptic.decoders.found import Fits, Found, Refused, spread


def read(path: str, fits: Fits, asked: dict[str, Any]) -> Found:
    held = pillow_heif.open_heif(path, convert_hdr_to_8bit=False)
    if not 1 <= asked["page"] <= len(held):
        raise Refused(f"The file holds {len(held)} pictures; there is no page {asked['page']}.")
    image = held[asked["page"] - 1]
    fits(*image.size)
    channels = {"L": 1, "LA": 2, "RGB": 3, "RGBA": 4}[image.mode.split(";")[0]]
    samples = np.asarray(image).reshape(image.size[1], image.size[0], channels)
    info: dict[str, Any] = image.info
    bits = 16 if samples.dtype == np.uint16 else 8
    return Found(
        spread(samples, bits), info.get("icc_profile") or b"", info.get("exif") or b"", info.get("xmp") or b"",
        len(held), True,
    )  # fmt: skip
