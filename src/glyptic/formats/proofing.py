"""A press as its profile says it prints, for looking at it on a screen."""

from __future__ import annotations

import numpy as np

from glyptic.base.digests import digest
from glyptic.document.delivery import INTENTS
from glyptic.engine.printed import Press
from glyptic.formats.icc import of_space
from glyptic.formats.profiles import RELATIVE_COLORIMETRIC, model_of, transformed
from glyptic.formats.targets import COMPENSATES
from glyptic.pixels.compiled import Planes
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import Space

HIGHEST = np.float32(65535)


def _through(px: Planes, space: Space, profile: bytes, intent: int, flags: int, back: int) -> Planes:
    """Encoded values through a press and back, in 16 bits as LittleCMS carries them."""
    model, ours = model_of(profile), of_space(space)
    given = to_codes(px, 16)
    printed = transformed(given, ours, profile, ("rgb", model), "uint16", intent, flags)
    seen = transformed(printed, profile, ours, (model, "rgb"), "uint16", back)
    return np.ascontiguousarray(np.moveaxis(seen, 2, 0), np.float32) / HIGHEST


def press_of(profile: bytes, intent: str, black_point: bool, paper: bool, marks: bool) -> Press:
    """A press to be proofed. paper: whether its paper's white is shown rather than the screen's; intent, black_point:
    as a delivery has them."""
    flags = COMPENSATES if black_point else 0
    back = INTENTS["absolute"] if paper else RELATIVE_COLORIMETRIC
    return Press(
        digest(profile, intent, black_point, paper),
        lambda px, space: _through(px, space, profile, INTENTS[intent], flags, back),
        lambda px, space: _through(px, space, profile, RELATIVE_COLORIMETRIC, 0, RELATIVE_COLORIMETRIC),
        marks,
    )
