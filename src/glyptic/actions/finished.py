"""The finished picture as it is, or made another size and sharpened for where it goes."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from glyptic.adjust.sharpen import SHARPEN
from glyptic.base.rectangles import Rect
from glyptic.engine.bands import Kept
from glyptic.engine.plan import Plan
from glyptic.engine.render import Progress, Rendering, cache_for
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import FORMATS, Output, whole_file
from glyptic.params import Values
from glyptic.pixels.compiled import Plane, Planes
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import Space
from glyptic.pixels.transfer import encoded, linear

LEAST_COVERED = 1e-6
SHARPENING = {"screen": 0.6, "paper": 1.2}
"""Sigma, in pixels of what is written, of the detail that is sharpened."""
NOISE, LIMIT, STRONGEST = 0.004, 0.12, 2.0
Plane64 = NDArray[np.float64]


@dataclass(frozen=True)
class Made:
    """A picture in a working space: colour (3, h, w) encoded, its alpha (h, w) or None."""

    colour: Planes
    alpha: Plane | None
    space: Space


@dataclass(frozen=True)
class Finished:
    """What a plan makes, with the frame's border or without; or a part of it, in full-size pixels; at a level, which
    exact makes of the full size. kept: as Rendering's."""

    plan: Plan
    border: bool = True
    level: int = 0
    part: Rect | None = None
    exact: bool = False
    kept: Kept | None = None

    @property
    def region(self) -> Rect | None:
        """The part of what comes out that is wanted, None for all."""
        frame = self.plan.frame
        if self.part is not None or frame is None or self.border:
            return self.part
        left, top, _, _ = frame.frame.border
        return Rect(left, top, *frame.frame.size)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        rect = self.rendering(8).rect
        return rect.w, rect.h

    def rendering(self, depth: int) -> Rendering:
        cache = cache_for(self.plan, level=0 if self.exact else self.level)
        return Rendering(self.plan, cache, self.level, self.region, depth, exact=self.exact, kept=self.kept)

    def resized(self, size: tuple[int, int], sharpen: tuple[str, float], progress: Progress) -> Made:
        """At another size (width, height), by Lanczos in linear light, and sharpened. sharpen: of SHARPENING or none,
        and how strongly."""
        with_alpha = self.plan.picture.alpha is not None
        samples = np.concatenate(list(self.rendering(16).samples(with_alpha, progress)))
        px = np.moveaxis(samples, 2, 0)
        alpha = px[3].astype(np.float32) / np.float32(65535) if with_alpha else None
        colour, covered = _resized(px[:3], alpha, size)
        if sharpen[0] in SHARPENING and sharpen[1] > 0:
            colour = sharpened(colour, SHARPENING[sharpen[0]], sharpen[1], self.plan.space)
        return Made(colour, covered, self.plan.space)


def _resized(codes: NDArray[np.uint16], alpha: Plane | None, size: tuple[int, int]) -> tuple[Planes, Plane | None]:
    """Codes (3, h, w) as encoded values of a size; light counts as far as it is covered."""
    if (codes.shape[2], codes.shape[1]) == size:
        return codes.astype(np.float32) / np.float32(65535), alpha
    light = linear(np.linspace(0, 1, 65536)).astype(np.float32)
    covered = None if alpha is None else _lanczos(alpha, size)
    out = np.empty((3, size[1], size[0]), np.float32)
    for channel in range(3):
        plane = light[codes[channel]]
        small = _lanczos(plane if alpha is None else plane * alpha, size)
        if covered is not None:
            small /= np.maximum(covered, LEAST_COVERED)
        out[channel] = encoded(np.clip(small, 0, 1))
    return out, None if covered is None else np.clip(covered, 0, 1)


def _lanczos(plane: Plane, size: tuple[int, int]) -> Plane:
    """A plane at another size: Lanczos over three lobes, as wide as the reduction asks for."""
    image = Image.fromarray(np.ascontiguousarray(plane, np.float32)).resize(size, Image.Resampling.LANCZOS)
    return np.array(image, np.float32)


def sharpened(colour: Planes, sigma: float, amount: float, space: Space) -> Planes:
    """Encoded values with the detail of their tone amplified, as the layer Sharpen does."""
    settings = Values({"amount": STRONGEST * amount, "radius": sigma, "noise": NOISE, "limit": LIMIT})
    reach = SHARPEN.reach(settings, 1.0)
    around = SHARPEN.around(settings, np.pad(colour, ((0, 0), (reach, reach), (reach, reach)), "symmetric"), 1.0, space)
    out = colour.copy()
    SHARPEN.lay(SHARPEN.ready(settings, space), around, out, np.ones(colour.shape[1:], np.float32))
    return out


def write_samples(given: Path | BinaryIO, made: Made, output: Output, metadata: Metadata, dpi: int = 0) -> None:
    """Write a picture that is here, to a file that appears when it is whole, or to a stream."""
    target, kind = output.target_from(made.space), FORMATS[output.format]
    colour, alpha = made.colour, made.alpha
    if alpha is not None and not kind.has_alpha:
        ground = np.array(output.ground, np.float32)[:, None, None]
        colour, alpha = ground + alpha * (colour - ground), None
    height, width = colour.shape[1:]
    samples = target.codes_from(made.space)(colour, output.depth, Rect(0, 0, width, height))
    if alpha is not None:
        samples = np.dstack([samples, to_codes(alpha[None], output.depth)[:, :, 0]])
    sheet = Sheet(width, height, samples.shape[2], output.depth, target.profile, target.model, dpi)
    if isinstance(given, Path):
        with whole_file(given) as stream:
            kind.write(stream, sheet, [samples], output.quality, metadata)
    else:
        kind.write(given, sheet, [samples], output.quality, metadata)
