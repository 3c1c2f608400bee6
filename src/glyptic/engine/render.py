"""Rendering a region of a plan at a level, tile by tile on several threads."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import Rect, level_size, tile_rect
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import Plan
from glyptic.engine.reader import Node, Reader
from glyptic.pixels.quantise import Samples, to_codes

Progress = Callable[[float], None]
"""Told the share done, 0..1, as it grows; may raise to stop the work."""


@dataclass(frozen=True)
class Rendered:
    """Samples (h, w, 3) of 8 or 16 bits, and alpha codes (h, w) of the same depth or None."""

    colour: Samples
    alpha: Samples | None


def region_at(plan: Plan, region: Rect | None, level: int) -> Rect:
    """A region of full-size pixels, clipped to the picture and grown to whole pixels of the level."""
    width, height = plan.picture.width, plan.picture.height
    if region is None:
        return Rect(0, 0, *level_size(width, height, level))
    clipped = region.meet(Rect(0, 0, width, height))
    if clipped.empty:
        raise DocumentError([Fault("region", "holds no pixel of the picture")])
    return clipped.at_level(level)


def _no_progress(share: float) -> None:
    """Nobody is waiting to hear."""


def render(
    plan: Plan,
    cache: TileCache,
    level: int = 0,
    region: Rect | None = None,
    depth: int = 8,
    node: Node | None = None,
    progress: Progress = _no_progress,
    threads: int = 2,
) -> Rendered:
    """Render a region (full-size pixels, or None for the whole picture) at 1/2^level of the size.

    depth: 8 or 16 bits, rounded half up once. node: what to render; the finished picture unless said.
    """
    width, height = plan.picture.width, plan.picture.height
    rect = region_at(plan, region, level)
    reader = Reader(cache, width, height, level)
    wanted = node or plan.finished
    out: Samples = np.empty((rect.h, rect.w, 3), np.uint8 if depth == 8 else np.uint16)
    tiles = list(rect.tiles())

    def draw(place: tuple[int, int]) -> None:
        part = tile_rect(*place).meet(rect)
        px = reader.read(wanted, part)
        target = out[part.y - rect.y : part.bottom - rect.y, part.x - rect.x : part.right - rect.x]
        target[:] = to_codes(px, depth)

    with ThreadPoolExecutor(threads) as pool:
        try:
            for done, _ in enumerate(pool.map(draw, tiles), 1):
                progress(done / len(tiles))
        except BaseException:
            pool.shutdown(cancel_futures=True)
            raise
    return Rendered(out, _alpha(plan, rect, level, depth))


def _alpha(plan: Plan, rect: Rect, level: int, depth: int) -> Samples | None:
    alpha = plan.picture.alpha
    if alpha is None:
        return None
    return to_codes(alpha.read(rect, level), depth)[:, :, 0]
