"""Opening whatever comes: pictures, archives, OpenRaster files."""

from __future__ import annotations

import zipfile
from pathlib import PurePosixPath
from typing import IO

from glyptic.actions.archive import STACK_FILE, open_archive
from glyptic.actions.open_picture import open_picture
from glyptic.actions.openraster_reading import DESCRIPTION, open_openraster
from glyptic.actions.workshop import Workshop
from glyptic.actions.zips import is_archive


def open_any(workshop: Workshop, stream: IO[bytes], name: str) -> int:
    """Put a plate made of a file on the shelf; returns its id. An OpenRaster file that we wrote opens with everything
    in it."""
    stream.seek(0)
    head = stream.read(4)
    stream.seek(0)
    if not is_archive(head):
        return open_picture(workshop, stream.read(), name)
    if _is_foreign(stream):
        return open_openraster(workshop, stream, name)
    return open_archive(workshop, stream, name)


def _is_foreign(stream: IO[bytes]) -> bool:
    """Whether a ZIP is an OpenRaster file without a stack file of ours."""
    try:
        with zipfile.ZipFile(stream) as archive:
            names = archive.namelist()
    except (zipfile.BadZipFile, OSError, ValueError, NotImplementedError):
        return False
    finally:
        stream.seek(0)
    return DESCRIPTION in names and not any(PurePosixPath(name).name == STACK_FILE for name in names)
