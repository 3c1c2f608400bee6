"""Mixing states that have an alpha."""

from __future__ import annotations

import numpy as np

from glyptic.pixels.compiled import Plane, Planes


def mix_premultiplied(below: Planes, px: Planes, share: Plane) -> None:
    """below += share (px − below), in place, of colours (4, h, w) weighted by their alpha; where neither has any the
    colours are mixed as they are."""
    alpha = below[3] + share * (px[3] - below[3])
    weight = np.divide(share * px[3], alpha, out=share.copy(), where=alpha > 0)
    below[:3] += weight * (px[:3] - below[:3])
    below[3] = alpha
