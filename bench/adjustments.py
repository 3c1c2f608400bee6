"""What each kind of layer costs a pixel, by itself over a photograph, on one thread."""

from __future__ import annotations

from typing import Any

from bench.engine import plan_of
from bench.reference import SIZES, photograph
from bench.table import Table, timed
from glyptic.adjust import KINDS
from glyptic.adjust.kind import Neighbourhood
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Reader

TIMES = 3
MEGAPIXELS = 1.5


def _seconds(plan: Plan) -> float:
    """The least processor time in which every tile of a picture is made, nothing of it kept from before."""
    took = []
    for _ in range(TIMES + 1):
        reader = Reader(TileCache(), plan.inner, 0, passing=True)
        took.append(timed(lambda r=reader: [r.read(plan.finished, r.tile_rect(x, y)) for x, y in r.bounds.tiles()]).cpu)
    return min(took[1:])


def adjustments(table: Table) -> None:
    width, height = SIZES[MEGAPIXELS]
    picture = photograph(width, height)
    nothing = _seconds(plan_of(picture, []))
    for kind in KINDS.values():
        fields: dict[str, Any] = kind.sampled(width, height)
        if not fields:
            continue
        took = _seconds(plan_of(picture, [{"id": "one", "kind": kind.name, **fields}])) - nothing
        where = "looks around itself" if isinstance(kind, Neighbourhood) else "in the pass over a tile"
        table.add(
            "Each kind of layer alone, over a photograph, one thread",
            f"{kind.title.lower()}, {where}",
            f"{took * 1e9 / (width * height):.1f} ns/px",
        )
