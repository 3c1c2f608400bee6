"""How memory is asked for."""

from __future__ import annotations

import ctypes
from contextlib import suppress

MOST_ARENAS, TRIM_ABOVE, MAP_ABOVE = -8, -1, -3
"""glibc's numbers (mallopt, malloc.h): how many heaps its allocator keeps; the bytes free at a heap's end above which
it gives them back; the bytes from which a piece is asked of the system by itself."""
KEPT, LARGEST = 128 * 2**20, 32 * 2**20


def _set(*settings: tuple[int, int]) -> None:
    try:
        library = ctypes.CDLL(None)
        for number, value in settings:
            library.mallopt(number, value)
    except (AttributeError, OSError):
        return  # another C library; it manages by itself


def give_back() -> None:
    """Give the system what is free between what is held; worth the milliseconds it takes when the hand rests."""
    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)


def share_one_heap() -> None:
    """Threads that each keep a heap of their own hold on to half as much again; the time they save is not felt."""
    _set((MOST_ARENAS, 1))


def keep_what_was_freed() -> None:
    """For a process that works on one picture after the other: what one needed is kept for the next. Whoever started it
    may have set the allocator to give everything back at once, which takes as long as the work itself."""
    _set((MOST_ARENAS, 1), (MAP_ABOVE, LARGEST), (TRIM_ABOVE, KEPT))
