"""What reading a picture file gives, whatever its format."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.pyramid import Picture, Pyramid


@dataclass(frozen=True)
class Metadata:
    """What travels with a picture: EXIF as a block (or empty), and notes for the reader."""

    exif: bytes = b""
    notes: tuple[str, ...] = ()


@dataclass(frozen=True)
class Raw:
    """What one format's reader gives: samples as stored, (h, w) or (h, w, channels), uint8 or uint16.

    channels: 1 grey, 2 grey and alpha, 3 RGB, 4 RGB and alpha. orientation: EXIF 1..8.
    """

    samples: NDArray[np.unsignedinteger]
    profile: bytes = b""
    exif: bytes = b""
    orientation: int = 1


@dataclass(frozen=True)
class Decoded:
    """A picture in the working space: codes (3, h, w) of 16 bits, or (1, h, w) of a grey one, alpha (1, h, w) or None.

    depth: bits a channel the file had (8 or 16).
    """

    codes: NDArray[np.uint16]
    alpha: NDArray[np.uint16] | None
    depth: int
    metadata: Metadata

    @property
    def width(self) -> int:
        return int(self.codes.shape[2])

    @property
    def height(self) -> int:
        return int(self.codes.shape[1])

    def as_picture(self, key: bytes) -> Picture:
        """The picture under a key of its content; its levels are made when they are asked for."""
        return Picture(Pyramid(self.codes), key, None if self.alpha is None else Pyramid(self.alpha))
