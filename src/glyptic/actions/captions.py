"""The words that go with plates: those of their files until others are written, for one plate or for many."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from glyptic.actions.edit import apply_edit
from glyptic.actions.workshop import Current, Workshop
from glyptic.base.errors import DocumentError, Fault
from glyptic.document.words import WORDS
from glyptic.formats.decoded import Metadata
from glyptic.formats.words import words_in
from glyptic.params import Values
from glyptic.store.plates import asset_of


def metadata_of(workshop: Workshop, asset: str) -> Metadata:
    """The metadata that a picture file came with."""
    with workshop.store.session() as session:
        row = asset_of(session, asset)
        return Metadata(row.exif, (), row.xmp, row.iptc)


def file_words(workshop: Workshop, asset: str) -> Values:
    """The words that a picture file came with."""
    return workshop.words.get_or(asset, lambda: words_in(metadata_of(workshop, asset)))


def words_of(workshop: Workshop, current: Current) -> Values:
    """The words that go with a plate: those written for it, or its file's own."""
    return current.stack.notes.words or file_words(workshop, current.stack.base.source)


def write_words(workshop: Workshop, plate_id: int, revision: int, plain: Mapping[str, Any] | None) -> Current:
    """Words anew, all of them, or with None those of the file again; as one step."""
    return apply_edit(workshop, plate_id, revision, "set-words", {"words": None if plain is None else dict(plain)})


def write_some(workshop: Workshop, plates: Sequence[int], plain: Mapping[str, Any]) -> int:
    """Some words on many plates, the others left as they are on each; returns on how many. Raises DocumentError, before
    anything is written, for words that cannot be."""
    faults: list[Fault] = []
    if not plain:
        raise DocumentError([Fault("words", "must hold one at least; nothing was changed")])
    WORDS.parse(dict(plain), "", faults)
    if faults:
        raise DocumentError(faults)
    for plate in plates:
        with workshop.lock(plate):
            current = workshop.current(plate)
            whole = {**WORDS.plain(words_of(workshop, current)), **plain}
            write_words(workshop, plate, current.revision, whole)
    return len(plates)
