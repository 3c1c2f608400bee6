"""The finished picture written to a file, as large as it is or reduced."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from glyptic.actions.render_file import write_rendering
from glyptic.engine.plan import Plan
from glyptic.engine.render import Rendering, cache_for
from glyptic.formats.decoded import Metadata
from glyptic.formats.sheet import Sheet
from glyptic.formats.writing import FORMATS, Output, write_picture
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.transfer import encoded, linear

LEAST_COVERED = 1e-6


def write_finished(path: Path, plan: Plan, output: Output, metadata: Metadata, long_edge: int = 0) -> None:
    """Write what a plan makes; its longest edge reduced to so many pixels where it is longer (0: as it is)."""
    wanted = Rendering(plan, cache_for(plan), depth=output.depth)
    if 0 < long_edge < max(wanted.rect.w, wanted.rect.h):
        _write_smaller(path, Rendering(plan, cache_for(plan), depth=16), long_edge, output, metadata)
    else:
        write_rendering(path, wanted, output, metadata)


def _write_smaller(path: Path, wanted: Rendering, edge: int, output: Output, metadata: Metadata) -> None:
    """Write a rendering of 16 bits, its longest edge reduced to so many pixels: means of areas in linear light."""
    import cv2  # noqa: PLC0415  (OpenCV is only loaded where something is reduced)

    with_alpha = wanted.plan.picture.alpha is not None and FORMATS[output.format].has_alpha
    samples = np.concatenate(list(wanted.samples(with_alpha, ground=output.ground)))
    scale = edge / max(samples.shape[:2])
    height, width = (max(1, round(side * scale)) for side in samples.shape[:2])
    light = linear(np.linspace(0, 1, 65536)).astype(np.float32)[samples[:, :, :3]]
    share = samples[:, :, 3:].astype(np.float32) / np.float32(65535) if with_alpha else np.float32(1)
    small, covered = (
        np.asarray(cv2.resize(np.ascontiguousarray(plane), (width, height), interpolation=cv2.INTER_AREA))
        for plane in (light * share, np.broadcast_to(share, (*light.shape[:2], 1)))
    )
    colour = encoded(small / np.maximum(covered, LEAST_COVERED)[:, :, None])
    planes = np.moveaxis(np.dstack([colour, covered]) if with_alpha else colour, 2, 0)
    codes = to_codes(np.ascontiguousarray(planes, np.float32), output.depth)
    write_picture(path, Sheet(width, height, codes.shape[2], output.depth), [codes], output, metadata)
