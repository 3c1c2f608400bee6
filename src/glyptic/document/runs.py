"""Paintings in runs: what is worked out of thousands of strokes is worked out of each run of them once.

A painting grows at its end, so all its runs but the last are those it had before: the same strokes, one by one. A run
is made once for them and found again, with what it remembers.
"""

from __future__ import annotations

from collections import OrderedDict
from functools import cached_property
from operator import is_
from threading import Lock

from glyptic.base.digests import canonical_json, digest
from glyptic.document.values import Painting

RUN = 64
REMEMBERED = 8192


class Run:
    """At most RUN strokes in their order."""

    def __init__(self, strokes: Painting) -> None:
        self.strokes = strokes

    def __len__(self) -> int:
        return len(self.strokes)

    @cached_property
    def digest(self) -> bytes:
        return digest(*(stroke.digest for stroke in self.strokes))

    @cached_property
    def farthest(self) -> float:
        """How far a point lies from the picture's corner, across or down, at the most, in pixels."""
        return max(abs(edge) for stroke in self.strokes for edge in stroke.bounds)

    @cached_property
    def listing(self) -> bytes:
        """The digests of the strokes, as the store keeps them."""
        return canonical_json([stroke.digest.hex() for stroke in self.strokes]).encode()

    @cached_property
    def listing_key(self) -> bytes:
        return digest(self.listing)

    @cached_property
    def pieces(self) -> tuple[Run, ...]:
        """The run parted so that each stroke that evens out stands by itself; one of sigma 0 does nothing, and is left
        out."""
        parted: list[Painting] = [()]
        for stroke in self.strokes:
            if stroke.even is None:
                parted[-1] = (*parted[-1], stroke)
            elif stroke.even:
                parted += [(stroke,), ()]
        pieces = [piece for piece in parted if piece]
        return (self,) if pieces == [self.strokes] else tuple(map(_same, pieces))


_KNOWN: OrderedDict[tuple[int, int, int], Run] = OrderedDict()
_LOCK = Lock()


def _same(strokes: Painting) -> Run:
    """The run of these very strokes, made if there is none yet."""
    place = (id(strokes[0]), id(strokes[-1]), len(strokes))
    with _LOCK:
        found = _KNOWN.get(place)
        if found is None or not all(map(is_, found.strokes, strokes)):
            found = _KNOWN[place] = Run(strokes)
        _KNOWN.move_to_end(place)
        while len(_KNOWN) > REMEMBERED:
            _KNOWN.popitem(last=False)
        return found


def runs(painting: Painting) -> list[Run]:
    """The strokes of a painting in runs of RUN, the last one perhaps shorter."""
    return [_same(painting[start : start + RUN]) for start in range(0, len(painting), RUN)]
