"""What a screen shows of a picture: its colours carried to a space the screen has."""

from __future__ import annotations

import numpy as np
from numpy import float32

from glyptic.base.digests import digest
from glyptic.base.rectangles import Rect
from glyptic.engine.maps import Map
from glyptic.engine.nodes import Node
from glyptic.engine.reader import Reader
from glyptic.pixels.compiled import Planes, kernel
from glyptic.pixels.spaces import Matrix, Space
from glyptic.pixels.transfer import enc, lin
from glyptic.pixels.vector import clamp01


@kernel
def _carry(px: Planes, m: Matrix) -> None:
    m00, m01, m02 = m[0, 0], m[0, 1], m[0, 2]
    m10, m11, m12 = m[1, 0], m[1, 1], m[1, 2]
    m20, m21, m22 = m[2, 0], m[2, 1], m[2, 2]
    for i in range(px.shape[1]):
        for j in range(px.shape[2]):
            r, g, b = lin(clamp01(px[0, i, j])), lin(clamp01(px[1, i, j])), lin(clamp01(px[2, i, j]))
            px[0, i, j] = enc(m00 * r + m01 * g + m02 * b)
            px[1, i, j] = enc(m10 * r + m11 * g + m12 * b)
            px[2, i, j] = enc(m20 * r + m21 * g + m22 * b)


def carry(px: Planes, source: Space, target: Space) -> Planes:
    """Encoded values (3, h, w) of one space as those of another, clamped before, not after."""
    out = np.array(px, float32, order="C")
    if source is not target:
        _carry(out, source.onto(target).astype(float32))
    return out


class Shown(Map):
    """A picture in the space of a screen."""

    def __init__(self, picture: Node, screen: Space) -> None:
        super().__init__(digest("shown", screen.name), picture)
        self._from, self.space = picture.space, screen

    def evaluate(self, reader: Reader, rect: Rect) -> Planes:
        return carry(reader.read(self.picture, rect)[:3], self._from, self.space)


def shown_in(node: Node, screen: Space) -> Node:
    """A node as a screen shows it: itself where it is of that space."""
    return node if node.space is screen else Shown(node, screen)
