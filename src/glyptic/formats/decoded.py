"""What reading a picture file gives, whatever its format."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from glyptic.pixels.pyramid import Picture, Pyramid
from glyptic.pixels.spaces import SRGB, Space


@dataclass(frozen=True)
class Metadata:
    """What travels with a picture: EXIF, XMP and IPTC as blocks (or empty), and notes for the reader."""

    exif: bytes = b""
    notes: tuple[str, ...] = ()
    xmp: bytes = b""
    iptc: bytes = b""


@dataclass(frozen=True)
class Raw:
    """What one format's reader gives: samples as stored, (h, w) or (h, w, channels), uint8 or uint16.

    channels: of the colour model, then alpha if there is one more. model: gray, rgb or cmyk; '' for gray of up to two
    channels, else rgb. Inks are shares of full coverage. orientation: EXIF 1..8. pages: pictures the file holds.
    """

    samples: NDArray[np.unsignedinteger]
    profile: bytes = b""
    exif: bytes = b""
    orientation: int = 1
    model: str = ""
    xmp: bytes = b""
    iptc: bytes = b""
    pages: int = 1
    notes: tuple[str, ...] = ()

    @property
    def colours(self) -> str:
        """The colour model."""
        channels = self.samples.shape[2] if self.samples.ndim == 3 else 1
        return self.model or ("gray" if channels <= 2 else "rgb")


@dataclass(frozen=True)
class Decoded:
    """A picture in the working space: codes (3, h, w) of 16 bits, or (1, h, w) of a grey one, alpha (1, h, w) or None.

    depth: bits a channel the file had (8 or 16). space: the working space; profile: the name of what its values meant;
    assumed: whether nothing in the file said so; pages: pictures the file holds;
    format: of the file, by its title.
    """

    codes: NDArray[np.uint16]
    alpha: NDArray[np.uint16] | None
    depth: int
    metadata: Metadata
    space: Space = SRGB
    profile: str = ""
    assumed: bool = True
    pages: int = 1
    format: str = ""

    @property
    def width(self) -> int:
        return int(self.codes.shape[2])

    @property
    def height(self) -> int:
        return int(self.codes.shape[1])

    def as_picture(self, key: bytes) -> Picture:
        """The picture under a key of its content; its levels are made when they are asked for."""
        alpha = None if self.alpha is None else Pyramid(self.alpha)
        return Picture(Pyramid(self.codes), key, alpha, self.space)
