"""The meaning of the code: digests of the sources that decide a value, so that nothing made by other code is taken for
what this code would make."""

from __future__ import annotations

from functools import cache
from hashlib import blake2b
from pathlib import Path

PACKAGE = Path(__file__).parents[1]
DECIDES_PIXELS = (
    "base", "params", "document", "pixels", "blend", "adjust", "brush", "masks", "analysis", "engine", "formats",
)  # fmt: skip
"""The rooms that decide what a picture looks like."""
DECIDES_LEVELS = ("pixels", "formats")
"""The rooms that decide what a picture file becomes when it is opened."""
BYTES = 8


def digest_of_sources(package: Path, rooms: tuple[str, ...]) -> bytes:
    """A digest of every module of some rooms of a package: of their names and their content."""
    h = blake2b(digest_size=BYTES)
    for path in sorted(path for room in rooms for path in (package / room).rglob("*.py")):
        h.update(path.relative_to(package).as_posix().encode())
        h.update(path.read_bytes())
    return h.digest()


@cache
def meaning_of(*rooms: str) -> bytes:
    """The digest of rooms of this package, read once."""
    return digest_of_sources(PACKAGE, rooms)


def of_pixels() -> bytes:
    """Stands in the key of every tile and in every address of a picture: other code, other keys."""
    return meaning_of(*DECIDES_PIXELS)


def of_levels() -> bytes:
    """Stands beside decoded levels that are kept."""
    return meaning_of(*DECIDES_LEVELS)
