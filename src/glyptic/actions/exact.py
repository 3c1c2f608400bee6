"""Exact at rest: while nothing happens, what is on screen is made of full-size pixels, a few at a time."""

from __future__ import annotations

import time
from collections.abc import Callable
from itertools import islice

from glyptic.actions.looking import Looking
from glyptic.actions.tiles import exact_node, plan_seen
from glyptic.actions.workshop import Workshop
from glyptic.base.threads import allowed
from glyptic.document.values import Stack
from glyptic.engine.exact import full_size
from glyptic.engine.pool import crew

AT_ONCE = 0.05
"""Seconds after which nothing new is begun: whoever comes back to work waits no longer than for one piece."""


def advance(
    workshop: Workshop, stack: Stack, looking: Looking, clock: Callable[[], float] = time.monotonic
) -> tuple[int, int]:
    """Make some of what the exact pixels of a view are means of; (pieces still missing, of how many)."""
    until = clock() + AT_ONCE
    plan = plan_seen(workshop, stack, looking)
    reader, node = plan.reader(workshop.tiles, looking.level), exact_node(workshop, plan, looking)
    tiles = list(looking.rect.meet(reader.bounds).tiles())
    missing = node.missing(reader, tiles)
    shown = full_size(reader, looking.rect.meet(reader.bounds))
    whole, pieces = len(list(shown.tiles())), iter(missing)
    left = len(missing)
    with crew() as hands:
        while left and clock() < until:
            batch = list(islice(pieces, allowed()))
            hands.all(batch)
            left -= len(batch)
    return left, whole


def clipped(workshop: Workshop, stack: Stack, looking: Looking) -> tuple[float, float] | None:
    """The shares of every full-size pixel that are blocked and blown, once all of the finished picture is exact; None
    where not all of it is looked at."""
    plan = plan_seen(workshop, stack, looking)
    reader = plan.reader(workshop.tiles, looking.level)
    if looking.view != "finished" or looking.rect.meet(reader.bounds) != reader.bounds:
        return None
    return exact_node(workshop, plan, looking).clipped(reader)
