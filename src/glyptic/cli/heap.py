"""How memory is asked for."""

from __future__ import annotations

import ctypes

MOST_ARENAS = -8
"""glibc's number for the setting of how many heaps its allocator keeps (mallopt, malloc.h)."""


def share_one_heap() -> None:
    """Threads that each keep a heap of their own hold on to half as much again; the time they save is not felt."""
    try:
        ctypes.CDLL(None).mallopt(MOST_ARENAS, 1)
    except (AttributeError, OSError):
        return  # another C library; it manages by itself
