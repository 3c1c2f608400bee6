"""The log drawn as a tree: on which lane each state stands, and which lanes run past it and into it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

MOST_LANES = 8
"""Branches further out than this share the last lane."""


@dataclass(frozen=True)
class Twig:
    """A row of the tree, newest states first. lane: of the state; past: lanes that run past it; into: lanes of newer
    states that come of it; goes_on: whether it comes of an older one."""

    lane: int
    past: tuple[int, ...]
    into: tuple[int, ...]
    goes_on: bool

    @property
    def width(self) -> int:
        """How many lanes the row takes up."""
        return max((self.lane, *self.past, *self.into)) + 1


def drawn(states: Iterable[tuple[int, int | None]]) -> dict[int, Twig]:
    """The tree of (id, id of the state it came of), newest first, by id."""
    waiting: list[int | None] = []
    found: dict[int, Twig] = {}
    for number, parent in states:
        into = [i for i, wanted in enumerate(waiting) if wanted == number]
        lane = into[0] if into else _free(waiting)
        past = [i for i, wanted in enumerate(waiting) if wanted is not None and wanted != number]
        for i in into:
            waiting[i] = None
        waiting[lane] = parent
        found[number] = Twig(
            _within(lane), tuple(sorted({_within(i) for i in past})), tuple(sorted({_within(i) for i in into})),
            parent is not None,
        )  # fmt: skip
    return found


def _free(waiting: list[int | None]) -> int:
    for i, wanted in enumerate(waiting):
        if wanted is None:
            return i
    waiting.append(None)
    return len(waiting) - 1


def _within(lane: int) -> int:
    return min(lane, MOST_LANES - 1)
