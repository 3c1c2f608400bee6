"""Pixels that nothing was done to leave with the very codes they came with, where the file is written in its own
profile: a conversion there and back would move them by a code here and there."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from glyptic.base.rectangles import Rect
from glyptic.engine.bands import Codes
from glyptic.formats.profiles import CHANNELS, model_of
from glyptic.formats.reading import DEFAULT_LIMIT, format_of, limits_of
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish
from glyptic.pixels.compiled import Planes
from glyptic.pixels.pyramid import Picture
from glyptic.pixels.quantise import Samples

PROFILE_TAG = 34675
FULL_DEPTH = 16


def own_profile(path: Path) -> bytes:
    """The profile that a picture file carries; nothing where it has none, or cannot be read so."""
    try:
        with Image.open(path) as image:
            found = image.info.get("icc_profile")
            if found:
                return bytes(found)
    except Exception:  # noqa: S110  whatever files that are no pictures of Pillow's make of it
        pass
    try:
        with tifffile.TiffFile(path) as opened:
            tag = opened.pages[0].tags.get(PROFILE_TAG)
            return bytes(tag.value) if tag is not None else b""
    except Exception:
        return b""


@dataclass(frozen=True)
class AsItCame:
    """Codes of a target, but for pixels that are still those of the picture: these are the file's own.

    samples: (h, w, channels) of the file, upright.
    """

    codes: Codes
    picture: Picture
    samples: Samples

    def __call__(self, px: Planes, depth: int, rect: Rect) -> Samples:
        out = self.codes(px, depth, rect)
        if rect.x < 0:
            return out  # a colour that is of no place
        same = (px == self.picture.colour.read(rect, 0)).all(0)
        given = self.samples[rect.y : rect.bottom, rect.x : rect.right]
        if depth == FULL_DEPTH and given.dtype == np.uint8:
            given = given.astype(np.uint16) * np.uint16(257)
        out[same] = given[same]
        return out


def as_it_came(codes: Codes, picture: Picture, path: Path, wish: Wish, profile: bytes, depth: int) -> Codes:
    """The codes of a target, with those of a file where nothing was done; the codes alone where its pixels do not come
    as they are: turned, of more bits, of other channels."""
    try:
        source = Source(path)
        found = format_of(source).read(source, wish, limits_of(max(DEFAULT_LIMIT, picture.width * picture.height)))
    except Exception:  # it was read before; what is not read again is not needed
        return codes
    samples = found.samples if found.samples.ndim == 3 else found.samples[:, :, None]
    colours = CHANNELS[found.colours]
    fits = found.colours == model_of(profile) and samples.shape[:2] == (picture.height, picture.width)
    if not fits or found.orientation != 1 or found.profile != profile or (samples.dtype == np.uint16 and depth == 8):
        return codes
    return AsItCame(codes, picture, samples[:, :, :colours])
