"""Open a picture: a file becomes a plate on the shelf."""

from __future__ import annotations

from pathlib import PurePosixPath

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.keeping import keep_first
from glyptic.actions.workshop import Workshop
from glyptic.document.values import Layer, Stack
from glyptic.formats import Decoded, read_picture
from glyptic.formats.decoded import Metadata
from glyptic.formats.exif import taken_at
from glyptic.formats.png import encode_grey
from glyptic.store.assets import content_hash
from glyptic.store.plates import asset_of
from glyptic.store.tables import Asset

LONGEST_NAME = 120


def plate_name(file_name: str) -> str:
    """A readable name from a file's name."""
    stem = PurePosixPath(file_name.replace("\\", "/")).stem
    cleaned = "".join(c if c.isprintable() else " " for c in stem).replace("_", " ").strip()
    return cleaned[:LONGEST_NAME] or "Untitled"


def keep_asset(workshop: Workshop, data: bytes, file_name: str) -> str:
    """Keep a picture file in the store; returns its hash. One that is there already is not decoded again. Raises
    PictureError for one that cannot be read."""
    asset = content_hash(data)
    if _is_known(workshop, asset):
        return asset
    return remember_asset(workshop, data, file_name, read_picture(data, workshop.limit))


def _is_known(workshop: Workshop, asset: str) -> bool:
    with workshop.store.session() as session:
        row = session.get(Asset, asset)
    return row is not None and row.width * row.height <= workshop.limit and workshop.store.assets.refresh(asset)


def remember_asset(workshop: Workshop, data: bytes, file_name: str, decoded: Decoded) -> str:
    """Keep a picture file that was decoded, or made, already; returns its hash."""
    asset = workshop.store.assets.keep(data, decoded)
    with workshop.store.writing() as session:
        if session.get(Asset, asset) is None:
            session.add(
                Asset(
                    hash=asset, name=file_name[:200], width=decoded.width, height=decoded.height,
                    depth=decoded.depth, has_alpha=decoded.alpha is not None, exif=decoded.metadata.exif,
                    notes="\n".join(decoded.metadata.notes), taken_at=taken_at(decoded.metadata.exif),
                    space=decoded.space.name, profile=decoded.profile, assumed=decoded.assumed, pages=decoded.pages,
                    format=decoded.format, xmp=decoded.metadata.xmp, iptc=decoded.metadata.iptc,
                )
            )  # fmt: skip
    return asset


def keep_grey(workshop: Workshop, codes: NDArray[np.uint8], name: str) -> str:
    """Keep a grey picture (h, w) as an asset; returns its hash."""
    decoded = Decoded((codes.astype(np.uint16) * np.uint16(257))[None], None, 8, Metadata())
    return remember_asset(workshop, encode_grey(codes), name, decoded)


def open_picture(workshop: Workshop, data: bytes, file_name: str, name: str | None = None) -> int:
    """Make a plate of a picture file; returns its id. The shelf is unchanged when that fails."""
    asset = keep_asset(workshop, data, file_name)
    with workshop.store.session() as session:
        space = asset_of(session, asset).space
    stack = Stack((Layer("base", "picture", "Base", source=asset),), space)
    return add_plate(workshop, name or plate_name(file_name), asset, stack, "Opened")


def add_plate(workshop: Workshop, name: str, asset: str, stack: Stack, sentence: str) -> int:
    """Put a new plate with a stack on the shelf; returns its id."""
    return keep_first(workshop, name, asset, stack, sentence)
