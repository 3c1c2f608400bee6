"""ZIPs that come from elsewhere: what is in them is read by name, up to a limit, and never unpacked to disk."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import PurePosixPath
from typing import IO

from glyptic.base.errors import GlypticError, PictureError

MOST_FILES, LARGEST_STACK, LARGEST_FILE = 1000, 512 * 2**20, 2**31
"""Files in an archive, and bytes of its stack file and of a picture in it once unpacked."""
NO_ARCHIVE = "The file is no archive of a plate: {why}. Nothing was changed."
SUFFIXES = {b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"II*\x00": ".tif", b"MM\x00*": ".tif"}
Beside = Callable[[str], bytes]
"""Gives the bytes of a file by the name the stack file has for it; raises PictureError where there is none."""


def is_archive(head: bytes) -> bool:
    return head.startswith(b"PK\x03\x04")


@contextmanager
def opened_zip(stream: IO[bytes], wanted: str, refusal: str = NO_ARCHIVE) -> Iterator[tuple[bytes, Beside]]:
    """The text in a ZIP that is called so, and what gives the files beside it. What is in an archive is read by the
    names that text has for it, up to a limit each, and never written anywhere under them. Raises PictureError."""
    try:
        with zipfile.ZipFile(stream) as archive:
            found = archive.infolist()
            if len(found) > MOST_FILES:
                raise PictureError(refusal.format(why=f"it holds more than {MOST_FILES} files"))
            texts = [info for info in found if PurePosixPath(info.filename).name == wanted]
            if len(texts) != 1:
                raise PictureError(refusal.format(why=f"it holds no {wanted}, or several"))
            folder = PurePosixPath(texts[0].filename).parent
            text = _unpacked(archive, texts[0].filename, LARGEST_STACK)
            yield text, lambda source: _unpacked(archive, str(folder / source), LARGEST_FILE)
    except GlypticError:
        raise
    except Exception as error:  # whatever a damaged archive makes zipfile say
        raise PictureError(refusal.format(why="it is damaged, or locked by a password")) from error


def _unpacked(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    try:
        with archive.open(name) as stream:
            content = stream.read(most + 1)
    except KeyError as error:
        raise PictureError("is not in the archive.") from error
    if len(content) > most:
        raise PictureError(f"is larger than {most // 2**20} MB.")
    return content
