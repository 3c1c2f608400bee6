"""JPEG XL, 8 and 16 bits: pixels by libjxl in imagecodecs; profile and metadata by another binding of it."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
from pillow_jxl import Decoder

from glyptic.decoders.found import Fits, Found, Refused


def read(path: str, fits: Fits, asked: dict[str, Any]) -> Found:
    data = Path(path).read_bytes()
    fits(*_size(data))
    _, info, _, profile, boxes = Decoder(num_threads=0)(data)
    samples = np.asarray(imagecodecs.jpegxl_decode(data, numthreads=1))
    if samples.ndim == 4:
        samples = samples[0]
    if samples.dtype.kind == "f":
        samples = np.floor(np.clip(samples, 0, 1).astype(np.float64) * 65535 + 0.5).astype(np.uint16)
    if samples.shape[:2] != (info.height, info.width):
        raise Refused("The file's header and its content disagree.")
    found = {box.box_type: bytes(box.data) for box in boxes}
    exif = found.get(b"Exif", b"")
    return Found(
        samples if samples.ndim == 3 else samples[:, :, None], bytes(profile or b""), exif[4:], found.get(b"xml ", b""),
        1, True,
    )  # fmt: skip


MARK = b"\xff\x0a"
RATIOS = ((1, 1), (12, 10), (4, 3), (3, 2), (16, 9), (5, 4), (2, 1))


class _Bits:
    """Bits of a codestream, the lowest of each byte first (ISO/IEC 18181-1)."""

    def __init__(self, data: bytes) -> None:
        self.rest = int.from_bytes(data, "little")

    def take(self, count: int) -> int:
        taken = self.rest & ((1 << count) - 1)
        self.rest >>= count
        return taken

    def side(self, small: int) -> int:
        """A side of the picture: eights of pixels where it is small."""
        if small:
            return 8 * (self.take(5) + 1)
        return self.take((9, 13, 18, 30)[self.take(2)]) + 1


def _size(data: bytes) -> tuple[int, int]:
    """Width and height by the codestream's header, by itself or in the first box of it."""
    at = 0 if data.startswith(MARK) else _codestream(data)
    bits = _Bits(data[at + 2 : at + 18])
    small = bits.take(1)
    height = bits.side(small)
    ratio = bits.take(3)
    if ratio:
        across, down = RATIOS[ratio - 1]
        return height * across // down, height
    return bits.side(small), height


def _codestream(data: bytes) -> int:
    """Where the codestream begins in a file of boxes."""
    at = 0
    while at + 8 <= len(data):
        size, kind = struct.unpack(">I4s", data[at : at + 8])
        start = at + 8
        if size == 1:
            size, start = int.from_bytes(data[start : start + 8], "big"), start + 8
        start += 4 if kind == b"jxlp" else 0
        if kind in (b"jxlc", b"jxlp") and data[start : start + 2] == MARK:
            return start
        if size < 8:
            break
        at += size
    raise Refused("The file holds no picture.")
