"""The words that travel with a picture, read from a file's metadata and written into all of it alike. The library that
does so runs in a process of its own (`glyptic.decoders.words`)."""

from __future__ import annotations

import base64
import json
import subprocess
import sys
from dataclasses import replace
from typing import Any

from glyptic.base.errors import Fault
from glyptic.decoders.blocks import LONGEST_SEGMENT
from glyptic.document.words import WORDS
from glyptic.formats.decoded import Metadata
from glyptic.params import Values

PATIENCE = 60
SMALL = LONGEST_SEGMENT - 64


def _asked(metadata: Metadata, **asked: Any) -> dict[str, Any] | None:
    """What the library makes of blocks; None where it fails at them. What is too large for it is left out."""
    blocks = {name: getattr(metadata, name) for name in ("exif", "xmp", "iptc")}
    request = {name: base64.b64encode(block if len(block) < SMALL else b"").decode() for name, block in blocks.items()}
    try:
        done = subprocess.run(
            [sys.executable, "-m", "glyptic.decoders.words"], input=json.dumps({**request, **asked}).encode(),
            capture_output=True, timeout=PATIENCE, check=True,
        )  # fmt: skip
        found = json.loads(done.stdout)
    except (OSError, ValueError, subprocess.SubprocessError):
        return None
    return found if isinstance(found, dict) else None


def has_any(metadata: Metadata) -> bool:
    return bool(metadata.exif or metadata.xmp or metadata.iptc)


def words_in(metadata: Metadata) -> Values:
    """The words that a file came with; what cannot be read, or is too long, is left out."""
    found = _asked(metadata, words=None, leave=None, place=True) if has_any(metadata) else None
    words = dict((found or {}).get("words", {}))
    kept: dict[str, Any] = {}
    for name, param in WORDS.params.items():
        faults: list[Fault] = []
        value = param.parse(_clean(words.get(name, param.plain(param.default))), name, faults)
        kept[name] = param.default if faults else value
    return Values(kept)


def _clean(value: Any) -> Any:
    """Texts of one line."""
    if isinstance(value, list):
        return [_clean(one) for one in value]
    return " ".join("".join(c if ord(c) >= 32 else " " for c in str(value)).split())


def leaving(metadata: Metadata, words: Values | None, which: str = "all", place: bool = False) -> Metadata:
    """The metadata that leaves with a picture. words: those written for it, None for its own; which: of LEAVING; place:
    whether where it was taken may leave. What was true of the file that came, such as its size, is taken out."""
    if which == "none" or (words is None and not has_any(metadata)):
        return Metadata(notes=metadata.notes)
    plain = None if words is None else {name: param.plain(words[name]) for name, param in WORDS.params.items()}
    found = _asked(metadata, words=plain, leave=which, place=place)
    if found is None:
        return Metadata(notes=metadata.notes)
    exif, xmp, iptc = (base64.b64decode(found[name]) for name in ("exif", "xmp", "iptc"))
    return replace(metadata, exif=exif, xmp=xmp, iptc=iptc)
