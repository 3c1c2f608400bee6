"""Looking for areas and for faults of a mask, at 24 megapixels."""

from __future__ import annotations

import numpy as np

from bench.reference import SIZES, photograph
from bench.table import Spread, Table, timed
from glyptic.analysis import regions
from glyptic.analysis.gaps import specks
from glyptic.analysis.regions import Scribble

TIMES = 5
SECTION = "Areas and faults of masks, 24 megapixels (median / p95)"


def areas(table: Table) -> None:
    width, height = SIZES[24]
    picture = photograph(width, height)
    level = regions.coarse_level(width, height)
    for n in range(level + 1):
        picture.colour.codes(n)
    scribble = Scribble(((width * 0.1, height * 0.1), (width * 0.15, height * 0.3)), 40.0, True)

    def grow() -> object:
        return regions.at_full_size(picture, regions.grown(picture, [scribble], 0.3), level)

    mask = np.full((height, width), 255, np.uint8)
    mask[:: height // 40, :: width // 40] = 0
    deeds = {
        "a region grown from a scribble, to full size": (grow, "1 s"),
        "the likely backdrop, to full size": (
            lambda: regions.at_full_size(picture, regions.backdrop(picture), level),
            "",
        ),
        "a border snapped within 24 pixels": (lambda: regions.snapped(picture, grown, 24), ""),
        "gaps found in a mask with 1,600 of them": (lambda: specks(mask, "gap", 60), ""),
    }
    grown = np.asarray(grow())
    for name, (deed, aim) in deeds.items():
        table.add(SECTION, name, Spread.of([timed(deed).wall for _ in range(TIMES)]), aim)
