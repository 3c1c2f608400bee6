"""Random stacks agree with the independent whole-picture renderer, to the tolerances of computation.md."""

from __future__ import annotations

import json

import numpy as np
import pytest

from glyptic.document.codec import parse_stack
from glyptic.engine.cache import TileCache
from glyptic.engine.plan import make_plan
from glyptic.engine.render import render
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.pixels.pyramid import Picture, Pyramid
from tests.oracle.whole import Whole
from tests.properties.stacks import StackMaker

PLAIN_TOLERANCE, BLURRED_TOLERANCE = 1e-3, 2e-3
SHARE_OF_PIXELS = 0.999


def picture_of(codes, key):
    """A picture of 16-bit codes (h, w, 3 or 4)."""
    planes = np.ascontiguousarray(np.moveaxis(codes, 2, 0))
    return Picture(Pyramid(planes[:3]), key, Pyramid(planes[3:]) if len(planes) == 4 else None)


@pytest.mark.parametrize(
    ("seed", "what", "space"),
    [
        *((n, "", "srgb") for n in range(24)),
        *((n, what, "srgb") for what in ("isolated", "whole", "framed") for n in range(14)),
        *((n, what, space) for space in ("display-p3", "wide") for what in ("", "whole", "framed") for n in range(8)),
    ],
)
def test_random_stack(seed, what, space):
    maker = StackMaker(seed, isolated=what == "isolated", whole=what == "whole", framed=what == "framed", space=space)
    base, stack = maker.base(), maker.stack()
    laid = maker.laid()
    pictures = {"base.png": picture_of(base, b"%d" % seed), "laid.png": picture_of(laid, b"laid %d" % seed)}
    plan = make_plan(parse_stack(stack, VOCABULARY), pictures.__getitem__)
    ours = render(plan, TileCache(), depth=16).colour / 65535.0
    theirs = np.clip(Whole(stack, base / 65535.0, {"laid.png": laid / 65535.0}).render(), 0, 1)
    text = json.dumps(stack)
    blurred = "blur" in text or '"even"' in text or "feather" in text
    tolerance = BLURRED_TOLERANCE if blurred else PLAIN_TOLERANCE
    worst = np.abs(ours - theirs).max(-1)
    assert np.mean(worst <= tolerance) >= SHARE_OF_PIXELS, f"worst {worst.max():.5f}"
