"""Maps of what was done: pictures that tell something of the picture, each a node like any other."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.analysis.clipping import blocked, blown
from glyptic.analysis.difference import changes
from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.engine.states import colour
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.spaces import Space, luminances, tone
from glyptic.pixels.transfer import encoded

Ink = tuple[float, float, float]


def _inked(out: Planes, strength: Plane, ink: Ink) -> None:
    """Lay an ink over a picture, 0..1."""
    out += strength * (np.array(ink, float32)[:, None, None] - out)


def _quiet(px: Planes, space: Space) -> Planes:
    """A picture in quiet greys, for marks to stand out on."""
    return np.repeat((DARKEST_UNDER + PER_TONE_UNDER * np.clip(tone(px, space), 0, 1))[None], 3, 0)


BLOWN_COLOUR, BLOCKED_COLOUR = (0.93, 0.36, 0.13), (0.11, 0.39, 0.86)
DARKEST_UNDER, PER_TONE_UNDER = float32(0.3), float32(0.4)
"""Under the marks the picture is a quiet grey: 0.3 + 0.4 times its tone, encoded."""
SOME = float32(0.55)
"""How strongly a pixel is marked of which not every channel is clipped."""


class Map(Node):
    """A map of a picture, pixel by pixel, and of whatever else it is made of."""

    def __init__(self, own: bytes, picture: Node, *others: Node) -> None:
        super().__init__(own)
        self.picture = picture
        self.others = others
        self.space = picture.space

    def key(self, reader: Reader, tx: int, ty: int) -> bytes:
        return digest(self.own, *(reader.key(node, tx, ty) for node in (self.picture, *self.others)))


class Clipping(Map):
    """The picture in quiet greys, with marks where it is blown and where it is blocked."""

    def __init__(self, picture: Node) -> None:
        super().__init__(digest("clipping", *BLOWN_COLOUR, *BLOCKED_COLOUR), picture)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = reader.read(self.picture, rect)
        out = _quiet(px, self.space)
        for marks, ink in ((blown(px), BLOWN_COLOUR), (blocked(px), BLOCKED_COLOUR)):
            _inked(out, np.where(marks.all(0), float32(1), np.where(marks.any(0), SOME, float32(0))), ink)
        return out


class OnlyClipped(Map):
    """Nothing but what is clipped, on an even grey: blown channels are light, blocked ones dark, so that the colour
    tells which."""

    def __init__(self, picture: Node) -> None:
        super().__init__(digest("only clipped"), picture)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        px = colour(reader, self.picture, rect)
        return np.where(blown(px), float32(1), np.where(blocked(px), float32(0), float32(0.5)))


LIGHTER_COLOUR, DARKER_COLOUR = (0.95, 0.78, 0.32), (0.22, 0.3, 0.62)
TWICE = float32(2)


class LighterDarker(Map):
    """The picture in quiet greys, and over it where a grey layer lightens and where it darkens, in two colours."""

    def __init__(self, picture: Node, painting: Node) -> None:
        super().__init__(digest("lighter and darker", *LIGHTER_COLOUR, *DARKER_COLOUR), picture, painting)
        self.painting = painting

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        out = _quiet(reader.read(self.picture, rect), self.space)
        off = (reader.read(self.painting, rect)[0] - float32(0.5)) * TWICE
        for share, ink in ((np.maximum(off, 0), LIGHTER_COLOUR), (np.maximum(-off, 0), DARKER_COLOUR)):
            _inked(out, strength(share, 1), ink)
        return out


class Tone(Map):
    """Nothing but tone: every pixel as the grey of its L*."""

    def __init__(self, picture: Node) -> None:
        super().__init__(digest("tone alone"), picture)

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        grey = encoded(luminances(reader.read(self.picture, rect), self.space)).astype(np.float32)
        return np.repeat(grey[None], 3, 0)


COLOUR_ONLY = (0.74, 0.34, 0.52)
MEASURES = {"apart": 20.0, "stops": 2.0}
"""What a map of change measures, and the change that is drawn at full strength: CIEDE2000, and stops."""
INKS = (*COLOUR_ONLY, *LIGHTER_COLOUR, *DARKER_COLOUR)
AS_TONE = 0.1
"""From so many stops on a change is shown as one of tone alone; below, more and more as one of colour."""


def strength(amount: Plane | float, full: float) -> Plane:
    """How strongly an amount of change is drawn: small ones can be told apart better than large ones."""
    return np.asarray(np.sqrt(np.clip(np.asarray(amount, np.float32) / float32(full), 0, 1)), np.float32)


class Change(Map):
    """The picture in quiet greys, and over it how far it is from another one: lighter and darker told apart, and what
    changed in colour alone."""

    def __init__(self, picture: Node, other: Node, measure: str) -> None:
        super().__init__(digest("change", measure, MEASURES[measure], AS_TONE, *INKS), picture, other)
        self.other = other
        self.measure = measure

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        after, before = (reader.read(node, rect)[:3] for node in (self.picture, self.other))
        apart, stops = changes(before, after, self.space)
        out = _quiet(after, self.space)
        full = MEASURES[self.measure]
        if self.measure == "stops":
            _inked(out, strength(np.maximum(stops, 0), full), LIGHTER_COLOUR)
            _inked(out, strength(np.maximum(-stops, 0), full), DARKER_COLOUR)
            return out
        much, tonal = strength(apart, full), np.clip(stops / float32(AS_TONE), -1, 1)
        _inked(out, much, COLOUR_ONLY)
        _inked(out, much * np.maximum(tonal, 0), LIGHTER_COLOUR)
        _inked(out, much * np.maximum(-tonal, 0), DARKER_COLOUR)
        return out
