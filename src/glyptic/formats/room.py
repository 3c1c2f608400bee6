"""Room for samples: memory, or a file that has no name where there are too many for it."""

from __future__ import annotations

import mmap
import tempfile

import numpy as np
from numpy.typing import DTypeLike, NDArray

SPILLED_FROM = 64 * 2**20
"""Bytes from which samples lie in a file."""


def room(shape: tuple[int, ...], dtype: DTypeLike) -> NDArray[np.unsignedinteger]:
    """An array to be filled; a large one is a map of a temporary file that goes with it."""
    size = int(np.prod(shape)) * np.dtype(dtype).itemsize
    if size < SPILLED_FROM:
        return np.empty(shape, dtype)
    with tempfile.TemporaryFile(prefix="glyptic-") as spilled:
        spilled.truncate(size)
        mapped = mmap.mmap(spilled.fileno(), size)
    return np.frombuffer(mapped, dtype).reshape(shape)


def let_go(samples: NDArray[np.unsignedinteger]) -> None:
    """Give the memory of spilled samples back until they are looked at again; nothing for samples in memory."""
    base: object = samples
    while isinstance(base, np.ndarray):
        base = base.base
    if isinstance(base, memoryview):
        base = base.obj
    if isinstance(base, mmap.mmap):
        base.madvise(mmap.MADV_DONTNEED)
