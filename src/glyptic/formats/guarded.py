"""Formats whose decoders run in a process of their own, with limits (see `glyptic.decoders`)."""

from __future__ import annotations

import base64
import json
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.base.errors import PictureError
from glyptic.formats.room import room
from glyptic.formats.source import Source

PATIENCE = 330
"""Seconds after which a decoder is given up, a little more than it allows itself."""
BLOCK = 16 * 2**20
BROKEN = "The file is damaged, or no {what} that can be read; it was not opened and nothing was changed."


@dataclass(frozen=True)
class Answer:
    """What a decoder found: samples (h, w, channels) of 8 or 16 bits, and what came along."""

    samples: NDArray[np.unsignedinteger]
    profile: bytes
    exif: bytes
    xmp: bytes
    pages: int
    turned: bool
    facts: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Limits:
    """Pixels a picture may have, and of its longest side; too_large: what is raised for more, told width and height."""

    most: int
    longest: int
    too_large: Callable[[int, int], Exception]


def decoded(decoder: str, what: str, source: Source, limits: Limits, **asked: Any) -> Answer:
    """Have a file decoded. what: what the file is called in a sentence; asked: what the decoder takes besides. Raises
    PictureError."""
    with tempfile.TemporaryDirectory(prefix="glyptic-decoding-") as made:
        folder = Path(made)
        path = source.path
        if path is None:
            path = folder / "file"
            path.write_bytes(source.bytes)
        out = folder / "samples"
        request = {"decoder": decoder, "path": str(path), "out": str(out), "most": limits.most,
                   "longest": limits.longest, "asked": asked}  # fmt: skip
        told = _asked(request, what)
        if "large" in told:
            raise limits.too_large(*told["large"])
        if "refused" in told:
            raise PictureError(f"{told['refused']} It was not opened and nothing was changed.")
        return Answer(_samples(out, tuple(told["shape"]), told["dtype"]), **_came_along(told))


def _asked(request: dict[str, Any], what: str) -> dict[str, Any]:
    """What the decoder says; raises PictureError where it dies, or says nothing that makes sense."""
    try:
        done = subprocess.run(
            [sys.executable, "-m", "glyptic.decoders"], input=json.dumps(request).encode(), capture_output=True,
            timeout=PATIENCE, check=False,
        )  # fmt: skip
        told = json.loads(done.stdout)
    except (OSError, ValueError, subprocess.TimeoutExpired) as error:
        raise PictureError(BROKEN.format(what=what)) from error
    if not isinstance(told, dict):
        raise PictureError(BROKEN.format(what=what))
    return told


def _samples(path: Path, shape: tuple[int, ...], dtype: str) -> NDArray[np.unsignedinteger]:
    samples = room(shape, np.uint8 if dtype == "uint8" else np.uint16)
    view = samples.reshape(-1).view(np.uint8).data
    with path.open("rb", buffering=0) as stream:
        at = 0
        while at < len(view) and (count := stream.readinto(view[at : at + BLOCK])):
            at += count
    return samples


def _came_along(told: dict[str, Any]) -> dict[str, Any]:
    found = {name: base64.b64decode(told[name]) for name in ("profile", "exif", "xmp")}
    return found | {name: told[name] for name in ("pages", "turned", "facts")}
