"""OpenRaster (version 0.0.5): a ZIP of layers as pictures, a description, and the merged picture. Here: the merged
picture of one, read."""

from __future__ import annotations

import zipfile

from glyptic.base.errors import PictureError
from glyptic.formats import png
from glyptic.formats.decoded import Raw
from glyptic.formats.guarded import Limits
from glyptic.formats.source import Source
from glyptic.formats.wish import Wish

MIMETYPE = b"image/openraster"
MERGED = "mergedimage.png"
LARGEST_PICTURE = 2**31
NO_ORA = "The file is no OpenRaster file that can be read: {why}. Nothing was changed."


def is_openraster(source: Source) -> bool:
    """A ZIP whose first entry is its kind of media."""
    with source.open() as stream:
        start = stream.read(80)
    return start.startswith(b"PK\x03\x04") and start[30:38] == b"mimetype" and MIMETYPE in start[38:]


def entry(archive: zipfile.ZipFile, name: str, most: int = LARGEST_PICTURE) -> bytes:
    """The bytes of a file in a ZIP; raises PictureError where there is none, or it is too large."""
    try:
        info = archive.getinfo(name)
        if info.file_size > most:
            raise PictureError(NO_ORA.format(why=f"{name[:60]} in it is too large"))
        with archive.open(info) as stream:
            data = stream.read(most + 1)
    except (KeyError, zipfile.BadZipFile, RuntimeError, NotImplementedError, OSError) as error:
        raise PictureError(NO_ORA.format(why=f"{name[:60]} is missing in it, or damaged")) from error
    if len(data) > most:
        raise PictureError(NO_ORA.format(why=f"{name[:60]} in it is too large"))
    return data


def read_merged(source: Source, wish: Wish, limits: Limits) -> Raw:
    """The merged picture."""
    try:
        with source.open() as stream, zipfile.ZipFile(stream) as archive:
            merged = Source(entry(archive, MERGED))
    except zipfile.BadZipFile as error:
        raise PictureError(NO_ORA.format(why="it is damaged")) from error
    if not merged.head.startswith(png.SIGNATURE):
        raise PictureError(NO_ORA.format(why="its merged picture is no PNG"))
    width, height = png.size(merged, wish)
    if width * height > limits.most or max(width, height) > limits.longest:
        raise limits.too_large(width, height)
    return png.read(merged, wish)
