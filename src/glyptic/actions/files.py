"""A plate's picture file: what it says of itself, how it is read, and raw files developed on trial."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from glyptic.actions.edit import apply_edit, edited
from glyptic.actions.placing import start_of
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault, PictureError
from glyptic.document.reading import CHOSEN, DEVELOPMENT, READING, changed
from glyptic.document.values import Layer, Stack
from glyptic.engine.shown import carry
from glyptic.formats import raw
from glyptic.formats.jpeg import encode_small
from glyptic.formats.reading import limits_of
from glyptic.formats.source import Source
from glyptic.params import Values
from glyptic.pixels.quantise import to_codes
from glyptic.pixels.spaces import SPACES, SRGB, WIDE
from glyptic.store.plates import asset_of
from glyptic.store.tables import Asset

RAW = "raw"
LIVE_SIDE = 900
QUALITY = 88
SECOND = "Second rendition"


@dataclass(frozen=True)
class PictureFile:
    """A picture layer's file. size: of the file, in bytes; space: what the picture opens in; profile: what its values
    were taken by; assumed: whether nothing in the file said so."""

    layer: Layer
    name: str
    format: str
    width: int
    height: int
    depth: int
    size: int
    space: str
    profile: str
    assumed: bool
    pages: int
    notes: tuple[str, ...]

    @property
    def is_raw(self) -> bool:
        return self.format == RAW

    @property
    def reading(self) -> Values:
        return self.layer.reading or READING.defaults

    @property
    def development(self) -> Values:
        found: Values = self.reading["development"]
        return found


def picture_file(workshop: Workshop, current: Current, layer_id: str = "") -> PictureFile:
    """The file of a picture layer, the base unless said; raises DocumentError for any other layer."""
    layer = current.stack.find(layer_id) if layer_id else current.stack.base
    if layer is None or not layer.source:
        raise DocumentError([Fault("layer", "has no picture that is read from a file")])
    with workshop.store.session() as session:
        row = asset_of(session, layer.source)
        picture = workshop.pictures_of(current.stack)(*layer.picture)
        return PictureFile(
            layer, row.name, row.format or "picture", picture.width, picture.height, row.depth,
            workshop.store.assets.path(layer.source).stat().st_size, SPACES[row.space].title, row.profile, row.assumed,
            row.pages, tuple(line for line in row.notes.split("\n") if line),
        )  # fmt: skip


def to_choose(workshop: Workshop, stack: Stack) -> str:
    """What has to be chosen for the base's file and was chosen for whoever opened it, as a sentence; "" if nothing."""
    return _to_choose(_row(workshop, stack), stack.base)


def left_open(workshop: Workshop, stack: Stack) -> str:
    """As to_choose; or what was assumed of its colours."""
    row = _row(workshop, stack)
    found = _to_choose(row, stack.base)
    if not found and row.assumed:
        return f"The file does not say what its colours are; it was read as {row.profile or SPACES[row.space].title}."
    return found


def _row(workshop: Workshop, stack: Stack) -> Asset:
    with workshop.store.session() as session:
        return asset_of(session, stack.base.source)


def _to_choose(row: Asset, base: Layer) -> str:
    if row.format == RAW:
        return "A raw file: its light and exposure can be set."
    page = (base.reading or READING.defaults)["page"]
    return f"The file holds {row.pages} pictures; this is number {page:.0f}." if row.pages > 1 else ""


def development_of(asked: dict[str, Any]) -> Values:
    """The development that a form asks for; raises DocumentError with every fault."""
    faults: list[Fault] = []
    found = DEVELOPMENT.parse(asked, "", faults)
    if found is None:
        raise DocumentError(faults)
    return found


def developed(workshop: Workshop, source: str, development: Values) -> bytes:
    """A raw file developed on trial, as a small JPEG in sRGB; raises PictureError for any other file."""
    path = Source(workshop.store.assets.checked(source))
    if not raw.is_raw(path):
        raise PictureError("That is no raw file; there is nothing to develop.")
    found, _ = raw.looked_at(path, development, limits_of(workshop.limit))
    height, width = found.samples.shape[:2]
    scale = min(1.0, LIVE_SIDE / max(width, height))
    side = (max(1, round(width * scale)), max(1, round(height * scale)))
    small = cv2.resize(np.asarray(found.samples), side, interpolation=cv2.INTER_AREA)
    px = np.ascontiguousarray(np.moveaxis(small, 2, 0), np.float32) / np.float32(65535)
    return encode_small(to_codes(carry(px, WIDE, SRGB), 8), QUALITY)


def light_as_shot(workshop: Workshop, source: str) -> tuple[float, float] | None:
    """The temperature and tint that the camera set; None where that is not known."""
    path = Source(workshop.store.assets.checked(source))
    return raw.looked_at(path, DEVELOPMENT.defaults, limits_of(workshop.limit))[1]


def read_anew(workshop: Workshop, plate_id: int, revision: int, layer: str, **values: object) -> Current:
    """Another page, meaning or development of a picture layer's file, as one step."""
    current = workshop.current(plate_id)
    found = picture_file(workshop, current, layer)
    plain = READING.plain(changed(found.layer.reading, **values) or READING.defaults)
    return apply_edit(workshop, plate_id, revision, "set-reading", {"layer": found.layer.id, "reading": plain})


def second_rendition(workshop: Workshop, plate_id: int, revision: int, development: Values) -> Current:
    """The base's raw file once more, developed otherwise, laid exactly over it with a closed mask, as one step."""
    current = workshop.current(plate_id)
    base = picture_file(workshop, current)
    if not base.is_raw:
        raise DocumentError([Fault("layer", "is no raw file; only these can be developed a second time")])
    canvas = workshop.base_of(current.stack).canvas
    reading = changed(base.layer.reading, development=development)
    if reading == base.layer.reading:
        raise DocumentError([Fault("development", "is that of the base; change something first")])
    layer = {
        "kind": "picture", "name": _named(development), "source": base.layer.source,
        "reading": READING.plain(reading or READING.defaults), "place": start_of(canvas, canvas),
        "mask": {"start": "closed"},
    }  # fmt: skip
    return apply_edit(workshop, plate_id, revision, "add-layer", {"layer": layer, "after": base.layer.id})


def _named(development: Values) -> str:
    """A name that says how it was developed."""
    words = [f"{development['exposure']:+.2f} stops"] if development["exposure"] else []
    words += [f"{development['temperature']:.0f} K"] if development["light"] == CHOSEN else []
    return f"{SECOND}, {', '.join(words)}" if words else SECOND


def space_words(workshop: Workshop, current: Current, space: str) -> str:
    """What carrying a plate to another working space would do, in the log's words; '' where it is that already."""
    if current.stack.working_space == space:
        return ""
    return edited(current.stack, "set-space", {"space": space}).sentence
