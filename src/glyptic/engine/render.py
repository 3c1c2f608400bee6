"""Rendering a region of a plan at a level."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from glyptic.base.errors import DocumentError, Fault
from glyptic.base.rectangles import TILE, Rect, step_of
from glyptic.engine.bands import Bands, Codes, Kept, plain_codes
from glyptic.engine.cache import Deep, TileCache
from glyptic.engine.exact import full_size
from glyptic.engine.framed import Framed
from glyptic.engine.nodes import Node
from glyptic.engine.plan import Plan
from glyptic.engine.pool import crew
from glyptic.engine.reader import Reader
from glyptic.engine.surroundings import Surroundings
from glyptic.pixels.means import DEPTH, Means
from glyptic.pixels.quantise import Samples, to_codes

Progress = Callable[[float], None]
"""Told the share done, 0..1, as it grows; may raise to stop the work."""


@dataclass(frozen=True)
class Rendered:
    """Samples (h, w, 3) of 8 or 16 bits, and alpha codes (h, w) of the same depth or None."""

    colour: Samples
    alpha: Samples | None


def region_at(plan: Plan, region: Rect | None, level: float) -> Rect:
    """A region of full-size pixels, clipped to the picture and grown to whole pixels of the level."""
    if region is None:
        return plan.outer.at(level)
    clipped = region.meet(plan.outer.at(0))
    if clipped.empty:
        raise DocumentError([Fault("region", "holds no pixel of the picture")])
    return clipped.at_level(level)


def _no_progress(share: float) -> None:
    """Nobody is waiting to hear."""


@dataclass(frozen=True)
class Rendering:
    """A picture to be rendered: what, where, at which size and depth.

    region: full-size pixels, or None for the whole picture. level: at 1/2^level of the size. depth: 8 or 16 bits,
    rounded half up once. node: what to render; the finished picture unless said. codes: how values of the working
    space become codes, of so many channels. exact: a level is the mean of what is made at full size.
    kept: gives codes of full size that were made before (see `Exact`) and need not be made again.
    """

    plan: Plan
    cache: TileCache
    level: float = 0
    region: Rect | None = None
    depth: int = 8
    node: Node | None = None
    codes: Codes = plain_codes
    channels: int = 3
    exact: bool = False
    kept: Kept | None = None

    @cached_property
    def rect(self) -> Rect:
        """The pixels of the level that are rendered; raises DocumentError where there are none."""
        return region_at(self.plan, self.region, self.level)

    def bands(self) -> Iterator[tuple[Rect, Samples]]:
        """(rectangle of the level, its colour samples (h, w, 3)), band by band from the top."""
        return self._reduced() if self.exact and self.level else self._straight()

    def _reduced(self) -> Iterator[tuple[Rect, Samples]]:
        """Each band the means of those of full size that it stands for."""
        full = full_size(self.plan.reader(self.cache, self.level), self.rect)
        fine = replace(self, level=0, region=full, depth=DEPTH, codes=plain_codes, channels=3)
        height = max(TILE, int(step_of(self.level)))
        top, means = full.y, None
        for band, rows in fine._straight():
            bottom = min((top // height + 1) * height, full.bottom)
            made = Rect(full.x, top, full.w, bottom - top).at_level(self.level)
            means = means or Means(made, self.level, self.plan.outer)
            means.add(rows, band)
            if band.bottom == bottom:
                yield made, self.codes(means.planes(), self.depth, made)
                top, means = bottom, None

    def _straight(self) -> Iterator[tuple[Rect, Samples]]:
        reader = self.plan.reader(self.cache, self.level, passing=True)
        with crew() as hands:
            node = self.node or self.plan.finished
            for band, tiles in Bands(self.plan, reader, node, self.rect, self.depth, hands, self.codes, self.kept):
                out: Samples = np.empty((band.h, band.w, self.channels), np.uint8 if self.depth == 8 else np.uint16)
                left = 0
                for tile in tiles:
                    codes = tile.result()
                    out[:, left : left + codes.shape[1]] = codes
                    left += codes.shape[1]
                yield band, out

    def samples(
        self, with_alpha: bool, progress: Progress = _no_progress, ground: tuple[float, float, float] = (1, 1, 1)
    ) -> Iterator[Samples]:
        """Bands (h, w, channels), with the base's alpha as one more where that is wanted and there is one. ground: the
        encoded colour 0..1 that a base with alpha is laid over where its alpha is not wanted."""
        beneath = tuple(
            self.codes(np.array(ground, np.float32)[:, None, None], 16, Rect(-1, -1, 1, 1))[0, 0] / np.float32(65535)
        )
        for band, colour in self.bands():
            alpha = self.alpha(band)
            if alpha is None:
                yield colour
            else:
                yield np.dstack([colour, alpha]) if with_alpha else laid_over(colour, alpha, beneath)
            progress((band.bottom - self.rect.y) / self.rect.h)

    def whole(self) -> Rendered:
        """All of it in one piece."""
        colour = np.empty((self.rect.h, self.rect.w, self.channels), np.uint8 if self.depth == 8 else np.uint16)
        for band, rows in self.bands():
            colour[band.y - self.rect.y : band.bottom - self.rect.y] = rows
        return Rendered(colour, self.alpha(self.rect))

    def alpha(self, rect: Rect) -> Samples | None:
        """The base's alpha codes (h, w) over a rectangle of the level, as it comes out, or None."""
        alpha = self.plan.alpha
        if alpha is None:
            return None
        return to_codes(self.plan.reader(self.cache, self.level).read(alpha, rect), self.depth)[:, :, 0]


def laid_over(colour: Samples, alpha: Samples, ground: tuple[float, ...]) -> Samples:
    """Codes (h, w, channels) with an alpha (h, w) of the same depth, laid over a colour 0..1: c a + g (1 - a), to the
    nearest code."""
    most = np.iinfo(colour.dtype).max
    share = alpha[:, :, None] / most
    mixed = colour * share + np.multiply(ground, most) * (1 - share)
    return np.floor(mixed + 0.5).astype(colour.dtype)


def render(
    plan: Plan, cache: TileCache, level: int = 0, region: Rect | None = None, depth: int = 8, node: Node | None = None
) -> Rendered:
    """A rendering in one piece (see `Rendering`)."""
    return Rendering(plan, cache, level, region, depth, node).whole()


FEWEST = 16 * 2**20
MOST = 1200 * 2**20
BYTES_A_PIXEL = 3 * np.dtype(np.float32).itemsize


def cache_for(plan: Plan, deep: Deep | None = None, level: int = 0) -> TileCache:
    """A cache as small as a rendering from top to bottom can do with: some rows of tiles of the picture, for each step
    that looks around itself the rows that it and those above it look ahead, and as many of everything painted. What
    does not fit into MOST is made again, which takes time."""
    reader = plan.reader(TileCache(), level)
    over = [step for layer, step in plan.surroundings.items() if plan.framed is None or layer in plan.on_sheet]
    needed = _held(reader, over, 2 * TILE, len(plan.painted_over) if plan.framed else len(plan.painted))
    if plan.framed is not None:
        below = [step for layer, step in plan.surroundings.items() if layer not in plan.on_sheet]
        inside = plan.framed.inside(reader)
        needed += _held(inside, below, _rows_at_once(plan.framed, reader), len(plan.painted))
    return TileCache(min(FEWEST + needed, MOST), deep, once=True)


def _held(reader: Reader, steps: list[Surroundings], rows: int, painted: int) -> int:
    """Bytes held of one canvas while its rows are gone through, `rows` of them at once."""
    width, height = reader.bounds.w, reader.bounds.h
    ahead, held = 0, rows
    for step in reversed(steps):
        ahead -= step.basis(reader, reader.bounds).y
        held += min(2 * TILE + ahead, height)
    paint = painted * min(rows + ahead, height)
    return width * (held * BYTES_A_PIXEL + paint * np.dtype(np.float32).itemsize)


def _rows_at_once(framed: Framed, reader: Reader) -> int:
    """How many rows of the picture a band of the sheet is made of, at the most, and a row of tiles more."""
    bounds = reader.bounds
    bands = (Rect(0, y, bounds.w, TILE).meet(bounds) for y in range(0, bounds.h, TILE))
    return max(framed.needs(reader, band).h for band in bands) + 2 * TILE
