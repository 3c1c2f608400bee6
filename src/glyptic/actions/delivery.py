"""Writing a finished picture as a delivery says."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from io import BytesIO
from pathlib import Path
from typing import Any

from glyptic.actions.finished import Finished, Made, write_samples
from glyptic.actions.render_file import Came, write_rendering
from glyptic.base.errors import ExportError
from glyptic.document.delivery import KINDS, OWN, WORKING, parsed_delivery
from glyptic.engine.render import Progress
from glyptic.formats.decoded import Metadata
from glyptic.formats.profiles import model_of
from glyptic.formats.targets import Target
from glyptic.formats.words import leaving
from glyptic.formats.writing import WHITE, Ground, Output, write_whole
from glyptic.params import Values
from glyptic.pixels.spaces import SPACES

LEAST_QUALITY = 25
TRIES = 7
MM_PER_INCH = 25.4


@dataclass(frozen=True)
class Written:
    """A delivery that can be written anywhere: its settings, and the bytes of its profile where that is no space.
    ground: what a picture with alpha is laid over where the format holds none."""

    values: Values
    profile: bytes = b""
    ground: Ground = WHITE

    @property
    def suffix(self) -> str:
        return KINDS[self.values["format"]].suffixes[0]

    @property
    def target(self) -> Target | None:
        """The colours that come out; None for those of the working space."""
        name = self.values["profile"]
        if name in SPACES:
            return Target.of(SPACES[name])
        if not self.profile:
            return None
        if model_of(self.profile) not in ("rgb", "cmyk"):
            raise ExportError("The profile of the delivery is none that a picture can be written in. Choose another.")
        return Target(self.profile, self.values["intent"], self.values["black_point"])

    @property
    def dpi(self) -> int:
        """What is written down for printers; 0 for nothing."""
        return int(self.values["dpi"]) if self.values["sized"] == "print" else 0

    @property
    def output(self) -> Output:
        """Raises ExportError for what does not go together."""
        name = self.values["format"]
        name = "tif-zstd" if name == "tif" and self.values["packed"] == "zstd" else name
        return Output(name, int(self.values["depth"]), int(self.values["quality"]), self.ground, self.target)

    def size_of(self, width: int, height: int) -> tuple[int, int]:
        """Width and height of what is written, for a picture of a size."""
        scale = self._scale(width, height)
        return max(1, round(width * scale)), max(1, round(height * scale))

    def _scale(self, width: int, height: int) -> float:
        values, how = self.values, self.values["sized"]
        if how == "print":
            wanted = values["millimetres"] / MM_PER_INCH * values["dpi"]
            return float(wanted / max(width, height)) if wanted else 1.0
        if how == "megapixels":
            wanted = values["megapixels"] * 1e6
            return min(1.0, (wanted / (width * height)) ** 0.5) if wanted else 1.0
        if how == "exact":
            sides = [values[name] / side for name, side in (("width", width), ("height", height)) if values[name]]
            return float(min(sides)) if sides else 1.0
        edge = values["long_edge"]
        return float(min(1.0, edge / (max if how == "longest" else min)(width, height))) if edge else 1.0


def write_delivery(
    path: Path,
    finished: Finished,
    delivery: Written,
    metadata: Metadata,
    words: Values | None,
    progress: Progress = lambda share: None,
    source: Came | None = None,
) -> None:
    """Write what comes out, or a part of it, as a delivery says, whole or not at all. words: those written for the
    picture, or None; source: the file its base came in."""
    output = delivery.output
    told = leaving(metadata, words, delivery.values["metadata"], delivery.values["place"])
    size = delivery.size_of(*finished.size)
    sharpen = delivery.values["sharpen"], delivery.values["sharpen_amount"]
    if delivery.values["most_kb"]:
        _write_within(path, delivery, finished.resized(size, sharpen, progress), output, told)
    elif size == finished.size and sharpen[0] == "none":
        write_rendering(path, finished.rendering(output.depth), output, told, progress, delivery.dpi, source)
    else:
        write_samples(path, finished.resized(size, sharpen, progress), output, told, delivery.dpi)


def _write_within(path: Path, delivery: Written, made: Made, output: Output, metadata: Metadata) -> None:
    """Write with the highest quality at which the file is no larger than it may be; raises ExportError where there is
    none."""
    most = int(delivery.values["most_kb"]) * 1000
    low, high, best = LEAST_QUALITY, output.quality, b""
    for _ in range(TRIES):
        if low > high:
            break
        quality = high if not best and high == output.quality else (low + high + 1) // 2
        data = _encoded(made, output, quality, metadata)
        if len(data) <= most:
            best, low = data, quality + 1
        else:
            high = quality - 1
    if not best:
        raise ExportError(
            f"The file cannot be held to {most // 1000} kB at any quality worth having. Nothing was written; make the "
            "picture smaller, or allow more."
        )
    write_whole(path, best)


def _encoded(made: Made, output: Output, quality: int, metadata: Metadata) -> bytes:
    buffer = BytesIO()
    write_samples(buffer, made, replace(output, quality=quality), metadata)
    return buffer.getvalue()


def written_from(values: Mapping[str, Any], profile_of: Any) -> Written:
    """A delivery with the bytes of its profile, which `profile_of` gives by its name."""
    parsed = values if isinstance(values, Values) else parsed_delivery(dict(values))
    name = parsed["profile"]
    return Written(parsed, b"" if name in (WORKING, OWN, *SPACES) else profile_of(name))
