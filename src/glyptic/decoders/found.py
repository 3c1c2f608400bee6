"""What a decoder gives."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

Fits = Callable[[int, int], None]
"""Told width and height before any pixel is decoded; raises TooLarge."""


class Refused(Exception):
    """A sentence for whoever opened the file."""


class TooLarge(Exception):
    """More pixels than a picture may have: width, height."""


@dataclass
class Found:
    """samples: (h, w, channels) of 8 or 16 bits; profile, exif, xmp: as the file has them. facts: what else is told."""

    samples: NDArray[np.unsignedinteger]
    profile: bytes = b""
    exif: bytes = b""
    xmp: bytes = b""
    pages: int = 1
    turned: bool = False
    """Whether it is upright already, whatever EXIF says."""
    facts: dict[str, Any] = field(default_factory=dict)


def spread(samples: NDArray[np.unsignedinteger], bits: int) -> NDArray[np.unsignedinteger]:
    """Samples of 10 or 12 bits as 16, white as white, each its nearest code."""
    if bits in (8, 16):
        return samples
    most = (1 << bits) - 1
    return ((samples.astype(np.uint32) * 65535 + most // 2) // most).astype(np.uint16)
