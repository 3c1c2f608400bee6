"""Archives: a plate's stack file with its pictures beside it, in a ZIP or a folder; written, and put on the shelf."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import chain
from pathlib import Path, PurePosixPath
from typing import IO, Any

from glyptic.actions.keeping import keep_first
from glyptic.actions.open_picture import keep_asset, plate_name
from glyptic.actions.proofs import plain_list, take_in
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError, PictureError
from glyptic.document.codec import read_stack
from glyptic.document.proof_list import PROOFS_FILE, read_proofs, write_proofs
from glyptic.document.sources import with_sources
from glyptic.document.values import Stack
from glyptic.document.writing import write_stack
from glyptic.engine.gate import every_source
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.params import Values
from glyptic.store.plates import asset_of

STACK_FILE = "stack.json"
PICTURES = "pictures"
MOST_FILES, LARGEST_STACK, LARGEST_FILE = 1000, 512 * 2**20, 2**31
"""Files in an archive, and bytes of its stack file and of a picture in it once unpacked."""
NO_ARCHIVE = "The file is no archive of a plate: {why}. Nothing was changed."
SUFFIXES = {b"\x89PNG": ".png", b"\xff\xd8\xff": ".jpg", b"II*\x00": ".tif", b"MM\x00*": ".tif"}


@dataclass(frozen=True)
class Saved:
    """A plate as it is saved: the stack, which refers to files by the names they have in the archive, and these."""

    stack: Stack
    files: dict[str, str]
    """The asset of each name."""
    proofs: list[tuple[dict[str, Any], Stack]]
    """Proofs, the oldest first: each as the list of proofs has it, and its state."""

    @property
    def texts(self) -> Iterator[tuple[str, str]]:
        """(name, content) of the files that are written as text."""
        yield STACK_FILE, write_stack(self.stack, VOCABULARY)
        if self.proofs:
            yield PROOFS_FILE, write_proofs([entry for entry, _ in self.proofs])
        for entry, stack in self.proofs:
            yield entry["stack"], write_stack(stack, VOCABULARY)


def _clean(name: str) -> str:
    stem = "".join(c if c.isalnum() or c in "-_ " else "-" for c in PurePosixPath(name.replace("\\", "/")).stem).strip()
    return stem[:60] or "picture"


def saved(workshop: Workshop, plate_id: int) -> Saved:
    """A plate's current state and its proofs, with the files they need."""
    stack = workshop.current(plate_id).stack
    pulled = [(one, workshop.stack(one.root)) for one in reversed(plain_list(workshop, plate_id))]
    names: dict[str, str] = {}
    with workshop.store.session() as session:
        for _, asset, *_ in chain.from_iterable(every_source(one) for one in (stack, *(proof for _, proof in pulled))):
            if asset not in names:
                head = workshop.store.assets.read(asset)[:4]
                suffix = next((end for start, end in SUFFIXES.items() if head.startswith(start)), "")
                names[asset] = f"{PICTURES}/{len(names) + 1:02}-{_clean(asset_of(session, asset).name)}{suffix}"
    proofs = [
        ({"name": one.name, "note": one.note, "at": one.at.isoformat(), "stack": f"proof-{number:03}.json"},
         with_sources(proof, names.__getitem__))
        for number, (one, proof) in enumerate(pulled, 1)
    ]  # fmt: skip
    return Saved(with_sources(stack, names.__getitem__), {name: asset for asset, name in names.items()}, proofs)


def write_archive(workshop: Workshop, plate_id: int, stream: IO[bytes]) -> None:
    """Write a plate's stack file and its pictures, as they came, as a ZIP."""
    plate = saved(workshop, plate_id)
    with zipfile.ZipFile(stream, "w") as archive:
        for name, text in plate.texts:
            archive.writestr(name, text, zipfile.ZIP_DEFLATED)
        for name, asset in plate.files.items():
            archive.writestr(name, workshop.store.assets.read(asset), zipfile.ZIP_STORED)


def write_folder(workshop: Workshop, plate_id: int, folder: Path) -> Path:
    """Write a plate's stack file and its pictures into a folder; returns the stack file."""
    plate = saved(workshop, plate_id)
    (folder / PICTURES).mkdir(parents=True, exist_ok=True)
    for name, asset in plate.files.items():
        (folder / name).write_bytes(workshop.store.assets.read(asset))
    for name, text in plate.texts:
        (folder / name).write_text(text)
    return folder / STACK_FILE


Beside = Callable[[str], bytes]
"""Gives the bytes of a file by the name the stack file has for it; raises PictureError where there is none."""


def open_stack(workshop: Workshop, text: bytes, beside: Beside, name: str) -> int:
    """Put a plate made of a stack file and the pictures beside it on the shelf; returns its id. Raises DocumentError
    with every fault; the shelf is unchanged then."""
    assets: dict[str, str] = {}
    kept = _with_assets(workshop, read_stack(text, VOCABULARY), beside, assets)
    proofs = [
        (entry, _with_assets(workshop, read_stack(beside(entry["stack"]), VOCABULARY), beside, assets))
        for entry in _proofs_beside(beside)
    ]
    for _, proof in proofs:
        workshop.admit(proof)
    plate_id = keep_first(workshop, plate_name(name), kept.base.source, kept, "Opened with its stack")
    for entry, proof in proofs:
        take_in(workshop, plate_id, proof, entry["name"], entry["note"], entry["at"])
    return plate_id


def _proofs_beside(beside: Beside) -> list[Values]:
    try:
        text = beside(PROOFS_FILE)
    except PictureError:
        return []
    return read_proofs(text)


def _with_assets(workshop: Workshop, stack: Stack, beside: Beside, assets: dict[str, str]) -> Stack:
    """A stack that refers to assets, which are kept on the way; raises DocumentError with every fault."""
    faults: list[Fault] = []
    for field, source, *_ in every_source(stack):
        try:
            assets[source] = assets.get(source) or keep_asset(workshop, beside(source), PurePosixPath(source).name)
        except PictureError as error:
            faults.append(Fault(field, f"{source[:80]}: {error}"))
    if faults:
        raise DocumentError(faults)
    return with_sources(stack, assets.__getitem__)


def open_archive(workshop: Workshop, stream: IO[bytes], name: str) -> int:
    """Put the plate in a ZIP on the shelf; returns its id."""
    with opened_zip(stream, STACK_FILE) as (text, beside):
        return open_stack(workshop, text, beside, name)


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


def open_stack_file(workshop: Workshop, path: Path) -> int:
    """Put a stack file on this disk, with the pictures beside it, on the shelf."""
    folder = path.parent.resolve()

    def beside(source: str) -> bytes:
        there = (folder / source).resolve()
        if not there.is_relative_to(folder) or not there.is_file():
            raise PictureError("is not beside the stack file.")
        return there.read_bytes()

    return open_stack(workshop, path.read_bytes(), beside, path.parent.name if path.name == STACK_FILE else path.stem)


def is_archive(head: bytes) -> bool:
    return head.startswith(b"PK\x03\x04")


def opened_together(workshop: Workshop, files: dict[str, bytes]) -> Iterator[int]:
    """Put files that were chosen together on the shelf: a stack file takes the pictures it names from among them."""
    stacks = [name for name in files if name.lower().endswith(".json")]

    def beside(source: str) -> bytes:
        found = files.get(PurePosixPath(source).name)
        if found is None:
            raise PictureError("was not chosen together with the stack file.")
        return found

    for name in stacks:
        yield open_stack(workshop, files[name], beside, name)
