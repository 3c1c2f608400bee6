"""The page's own files: served under an address that changes with them, so that a browser need never ask again."""

from __future__ import annotations

import re
from functools import cache
from hashlib import blake2b
from pathlib import Path
from posixpath import dirname, join, normpath
from typing import TYPE_CHECKING

from whitenoise import WhiteNoise

if TYPE_CHECKING:
    from wsgiref.headers import Headers
    from wsgiref.types import WSGIApplication

FOLDER = Path(__file__).with_name("static")
FOR_EVER = 31_536_000
"""Seconds a browser may keep what never changes."""
_IMPORT = re.compile(r'^(?:import|export)\b[^;]*?"(\.[^"]+)";', re.MULTILINE)


def address() -> str:
    """The path the files are served under, with a digest of them all in it. Modules import each other by relative
    addresses, and style sheets their fonts, so that everything follows."""
    h = blake2b(digest_size=6)
    for path in sorted(path for path in FOLDER.rglob("*") if path.is_file()):
        h.update(path.relative_to(FOLDER).as_posix().encode())
        h.update(path.read_bytes())
    return f"/static/{h.hexdigest()}"


def _headers(headers: Headers, path: str, url: str) -> None:
    headers["X-Content-Type-Options"] = "nosniff"


def served(app: WSGIApplication) -> WhiteNoise:
    """An application with the page's own files before it: they are many, and need nothing that a page needs."""
    made = WhiteNoise(app, max_age=FOR_EVER, add_headers_function=_headers, allow_all_origins=False)
    made.add_files(str(FOLDER), prefix=address())
    return made


@cache
def modules(entry: str) -> list[str]:
    """The names of a module of the page and of all that it imports, however indirectly, so that a browser can ask for
    them all at once."""
    found: dict[str, None] = {}
    waiting = [entry]
    while waiting:
        name = waiting.pop()
        if name in found:
            continue
        found[name] = None
        near = _IMPORT.findall((FOLDER / name).read_text())
        waiting += [normpath(join(dirname(name), where)) for where in near]
    return list(found)
