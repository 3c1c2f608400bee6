"""The frame: the only place where the picture is carried onto the sheet (computation.md, Quads)."""

from __future__ import annotations

from dataclasses import replace
from math import floor, log2, sqrt

import numpy as np
from numpy import float32
from numpy.typing import NDArray

from glyptic.base.digests import digest
from glyptic.base.homography import Homography, area_of
from glyptic.base.rectangles import Canvas, Rect, step_of
from glyptic.document.values import Frame
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Planes
from glyptic.pixels.framing import Crop, framed, reached

NEARER = 0.25
"""A level is passed over only where it is finer than what is shown by more than this share of an octave."""
ON = 1e-9
A_LITTLE_MORE = 1.25


class Geometry:
    """How a frame carries a picture onto its sheet, at any level. finer: by how many levels what is zoomed out is made
    of a finer picture than it need be."""

    def __init__(self, frame: Frame, inner: Canvas, finer: int = 0) -> None:
        self.frame = frame
        self.finer = finer
        self.inner = inner
        self.outer = Canvas(*frame.sheet)
        width, height = frame.size
        self.onto = frame.onto
        """Carries full-size pixels of the sheet to full-size pixels of the picture."""
        self.reduces = sqrt(area_of(frame.corners) / (width * height))
        """How many of the picture's pixels a pixel of the sheet takes in, across, on the whole."""
        self.whole = frame.steps
        """Where pixels are carried onto pixels: the steps (xx, xy, yx, yy); else None."""

    def is_like(self, other: Geometry) -> bool:
        """Whether another one carries the picture the same way, onto the same sheet."""
        mine, theirs = replace(self.frame, layers=()), replace(other.frame, layers=())
        return mine == theirs and self.inner == other.inner and self.finer == other.finer

    def level(self, level: float) -> float:
        """The picture's level that a level of the sheet is made of: as fine, or a little finer. Full size is made of
        full size, a whole level of a whole one."""
        if level == 0 or self.whole is not None:
            return level
        near = level + log2(self.reduces)
        near = floor(near + NEARER) if level == floor(level) else near - NEARER
        return min(max(0, near - self.finer), self.inner.deepest)

    def onto_at(self, level: float) -> Homography:
        """Carries pixels of a level of the sheet to pixels of the picture's level for it."""
        out, back = step_of(level), 1.0 / step_of(self.level(level))
        grown = Homography.affine(out, 0.0, 0.0, 0.0, out, 0.0)
        return Homography.affine(back, 0.0, 0.0, 0.0, back, 0.0).after(self.onto.after(grown))

    def crop_at(self, level: float) -> Crop:
        step = step_of(level)
        left, top, _, _ = self.frame.border
        width, height = self.frame.size
        return Crop(left / step, top / step, (left + width) / step, (top + height) / step)

    def falls(self, level: float) -> bool:
        """Whether the picture is needed row by row from the top, as the sheet is gone through."""
        by = self.onto_at(level)
        return by.at(0.5, 1.0)[1] > by.at(0.5, 0.0)[1]

    def averages(self, level: float) -> bool:
        """Whether pixels of a level are means over their area, for they take in more than a pixel: exactly so at full
        size; zoomed out, a little more is let pass, which is a tenth of the work."""
        return self.reduces * step_of(level - self.level(level)) > (1 + ON if level == 0 else A_LITTLE_MORE)

    def holds(self, level: float) -> NDArray[np.bool_]:
        """(h, w): which pixels of a level of the picture lie in the crop, by their centres."""
        bounds, (width, height) = self.inner.at(level), self.frame.size
        back = Homography.onto(self.frame.corners, width, height).inverse
        x = (np.arange(bounds.w)[None, :] + 0.5) * step_of(level)
        y = (np.arange(bounds.h)[:, None] + 0.5) * step_of(level)
        across, down, far = (row[0] * x + row[1] * y + row[2] for row in back.facing(*self.frame.corners[0]).rows)
        inside = (across >= 0) & (down >= 0) & (across < width * far) & (down < height * far)
        return np.asarray(inside & (far > 0))

    def shows(self, rect: Rect, level: float) -> Rect:
        """The pixels of the sheet's level that a rectangle of the picture's level for it shows in."""
        onto, crop, sheet = self.onto_at(level), self.crop_at(level), self.outer.at(level)
        back = onto.inverse.facing(*onto.at(crop.left, crop.top))
        area = rect.meet(self.needs(sheet, level))
        places = [(x, y) for x in (area.x, area.right) for y in (area.y, area.bottom)]
        if area.empty or any(back.rows[2][0] * x + back.rows[2][1] * y + back.rows[2][2] <= 0 for x, y in places):
            return sheet if not area.empty else Rect(0, 0, 0, 0)
        xs, ys = zip(*(back.at(x, y) for x, y in places), strict=True)
        return Rect.covering(min(xs) - 2, min(ys) - 2, max(xs) + 2, max(ys) + 2).meet(sheet)

    def needs(self, rect: Rect, level: float) -> Rect:
        """The pixels of the picture's level that a rectangle of the sheet's level is made of."""
        area = reached(rect, self.crop_at(level), self.onto_at(level))
        return area.meet(self.inner.at(self.level(level)))


class Framed(Node):
    """What a frame makes of a state of the picture, or of a mask or painting on it: the sheet, without its layers.

    colours: what lies beyond the picture, and the border's, one value a channel each. keeps: whether the tiles it is
    made of are kept; while a stroke is drawn they are different a moment later.
    """

    def __init__(
        self, inner: Node, geometry: Geometry, colours: tuple[tuple[float, ...], tuple[float, ...]], keeps: bool = True
    ) -> None:
        frame = geometry.frame
        corners = [value for corner in frame.corners for value in corner]
        super().__init__(digest("framed", *corners, *frame.size, *frame.border, *colours[0], *colours[1]))
        self.channels = inner.channels
        if inner.channels > 1:
            self.space = inner.space
        self.inner = inner
        self.geometry = geometry
        self.colours = (np.array(colours[0], float32), np.array(colours[1], float32))
        if keeps:
            inner.watch()

    def inside(self, reader: Reader) -> Reader:
        """The reader of the picture, for a reader of the sheet."""
        return reader.on(self.geometry.inner, self.geometry.level(reader.level))

    def needs(self, reader: Reader, rect: Rect) -> Rect:
        return self.geometry.needs(rect, reader.level)

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        area, inside = self.needs(reader, reader.tile_rect(tx, ty)), self.inside(reader)
        below = (inside.key(self.inner, x, y) for x, y in area.tiles())
        return digest(self.own, reader.place(tx, ty), *below)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        inside = self.inside(reader)
        copied = self._copied(inside, reader, rect)
        if copied is not None:
            return copied
        area = self.needs(reader, rect)
        px = np.zeros((self.channels, 1, 1), float32) if area.empty else inside.view(self.inner, area)
        level, by = reader.level, self.geometry
        return framed(
            px, area, inside.bounds, by.onto_at(level), by.crop_at(level), self.colours, rect, by.averages(level)
        )

    def _copied(self, inside: Reader, reader: Reader, rect: Rect) -> Planes | None:
        """The rectangle where it is nothing but pixels of the picture in other places, bit for bit; else None."""
        steps = self.geometry.whole
        if steps is None:
            return None
        crop, onto = self.geometry.crop_at(reader.level), self.geometry.onto_at(reader.level)
        (x0, y0), (x1, y1) = onto.at(rect.x, rect.y), onto.at(rect.right, rect.bottom)
        within = crop.left <= rect.x and crop.top <= rect.y and rect.right <= crop.right and rect.bottom <= crop.bottom
        if not within or any(v != floor(v) for v in (x0, y0, x1, y1)):
            return None
        area = Rect.covering(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
        if area.meet(inside.bounds) != area:
            return None
        px = inside.read(self.inner, area)
        px = px if steps[0] else px.transpose(0, 2, 1)
        return np.ascontiguousarray(px[:, :: steps[1] + steps[3], :: steps[0] + steps[2]])
