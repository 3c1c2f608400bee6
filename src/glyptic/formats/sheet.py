"""What writers are given: the measures of a picture, and its rows in bands from the top."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from glyptic.base.threads import allowed
from glyptic.formats.icc import of_space
from glyptic.formats.profiles import CHANNELS
from glyptic.pixels.spaces import SRGB

Samples = NDArray[np.unsignedinteger]
T = TypeVar("T")
THREADS = 2
AHEAD = 4
"""Strips being packed at once: what is ready waits for its turn in memory."""


@dataclass(frozen=True)
class Sheet:
    """The measures of a picture to be written: channels of 8 or 16 bits, of the colours its profile is about, and alpha
    if there is one more. model: rgb or cmyk. dpi: dots an inch it is meant to be printed at, 0 where nobody said."""

    width: int
    height: int
    channels: int
    depth: int
    profile: bytes = field(default_factory=lambda: of_space(SRGB))
    model: str = "rgb"
    dpi: int = 0

    @property
    def has_alpha(self) -> bool:
        return self.channels > CHANNELS[self.model]

    @property
    def dtype(self) -> np.dtype[np.unsignedinteger]:
        return np.dtype(np.uint16 if self.depth == 16 else np.uint8)

    @property
    def shape(self) -> tuple[int, int, int]:
        return self.height, self.width, self.channels


def strips(bands: Iterable[Samples], rows: int) -> Iterator[Samples]:
    """Bands (h, w, channels) of any height, cut and joined to strips of `rows` rows, the last one perhaps lower."""
    waiting: list[Samples] = []
    have = 0
    for band in bands:
        rest = band
        while have + len(rest) >= rows:
            waiting.append(rest[: rows - have])
            rest = rest[rows - have :]
            yield waiting[0] if len(waiting) == 1 else np.concatenate(waiting)
            waiting, have = [], 0
        if len(rest):
            waiting.append(rest)
            have += len(rest)
    if waiting:
        yield np.concatenate(waiting)


def in_order(work: Callable[[Samples], T], pieces: Iterable[Samples]) -> Iterator[T]:
    """What `work` makes of each piece, in their order, worked on by several threads a few pieces ahead."""
    pool = ThreadPoolExecutor(allowed(THREADS), "pack")
    coming: deque[Future[T]] = deque()
    try:
        for piece in pieces:
            coming.append(pool.submit(work, piece))
            if len(coming) == AHEAD:
                yield coming.popleft().result()
        while coming:
            yield coming.popleft().result()
    finally:
        pool.shutdown(cancel_futures=True)
