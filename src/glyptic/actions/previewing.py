"""What a delivery's file would look like: it is written, read again as whoever gets it will, and a part of it shown."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from glyptic.actions.runs.deliveries import deliver, job_of
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import PictureError
from glyptic.document.delivery import KINDS, parsed_delivery
from glyptic.formats import read_picture
from glyptic.formats.decoded import Metadata
from glyptic.formats.wish import Wish
from glyptic.formats.writing import Output, encode_picture
from glyptic.pixels.spaces import SRGB

WIDTH, HEIGHT = 760, 560
"""Of the part that is shown, in pixels of the file."""


@dataclass(frozen=True)
class Preview:
    """picture: a PNG of a part of the file at full size, in sRGB; of the whole width and height; size: bytes of it."""

    picture: bytes
    width: int
    height: int
    size: int
    left: int
    top: int


def preview(workshop: Workshop, plate_id: int, plain: dict[str, Any], place: tuple[float, float]) -> Preview:
    """A delivery's file of a plate; place: the middle of the part shown, as shares of the picture. Raises
    DocumentError, or PictureError with what is wrong."""
    values = parsed_delivery(plain)
    stack = workshop.current(plate_id).stack
    with TemporaryDirectory(prefix="glyptic-preview-") as made:
        path = Path(made) / f"preview{KINDS[values['format']].suffixes[0]}"
        done = deliver(job_of(workshop, stack, values, path))
        if done.trouble:
            raise PictureError(done.trouble)
        codes = read_picture(path, workshop.limit, Wish(SRGB)).codes
    height, width = codes.shape[1:]
    left, top = (
        int(min(max(share * side - part / 2, 0), max(side - part, 0)))
        for share, side, part in ((place[0], width, WIDTH), (place[1], height, HEIGHT))
    )
    part = np.moveaxis(codes[:, top : top + HEIGHT, left : left + WIDTH], 0, 2) // 257
    shown = encode_picture(np.ascontiguousarray(part.astype(np.uint8)), None, Output("png"), Metadata())
    return Preview(shown, width, height, done.size, left, top)
