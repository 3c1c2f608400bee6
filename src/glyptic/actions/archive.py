"""Archives: a plate's stack file with its pictures beside it, in a ZIP or a folder; written, and put on the shelf."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from itertools import chain
from pathlib import Path, PurePosixPath
from typing import IO, Any

from glyptic.actions.keeping import keep_first
from glyptic.actions.kits.keeping import list_kits, read_kit_files, written_kit
from glyptic.actions.open_picture import keep_asset, plate_name
from glyptic.actions.proofs import plain_list, take_in
from glyptic.actions.whole_history import LOG_FILE, OBJECTS_FILE, history_of, object_lines, read_log, take_history_in
from glyptic.actions.workshop import Workshop
from glyptic.actions.zips import SUFFIXES, Beside, opened_zip
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
from glyptic.store.sweeping import remove_for_good

STACK_FILE = "stack.json"
PICTURES, KITS = "pictures", "kits"


@dataclass(frozen=True)
class Saved:
    """A plate as it is saved: the stack, which refers to files by the names they have in the archive, and these."""

    stack: Stack
    files: dict[str, str]
    """The asset of each name."""
    proofs: list[tuple[dict[str, Any], Stack]]
    """Proofs, the oldest first: each as the list of proofs has it, and its state."""
    log: dict[str, Any]
    """The whole log, as `whole_history` has it."""
    objects: list[bytes]
    """The keys of the pieces that the states of the log are made of."""
    kits: dict[str, bytes]
    """Files of kits, by the names they have in the archive."""

    @property
    def texts(self) -> Iterator[tuple[str, str]]:
        """(name, content) of the files that are written as text."""
        yield STACK_FILE, write_stack(self.stack, VOCABULARY)
        if self.proofs:
            yield PROOFS_FILE, write_proofs([entry for entry, _ in self.proofs])
        for entry, stack in self.proofs:
            yield entry["stack"], write_stack(stack, VOCABULARY)
        yield LOG_FILE, json.dumps(self.log, ensure_ascii=False, indent=1)


def _clean(name: str) -> str:
    stem = "".join(c if c.isalnum() or c in "-_ " else "-" for c in PurePosixPath(name.replace("\\", "/")).stem).strip()
    return stem[:60] or "picture"


def saved(workshop: Workshop, plate_id: int) -> Saved:
    """A plate's current state and its proofs, with the files they need."""
    stack = workshop.current(plate_id).stack
    pulled = [(one, workshop.stack(one.root)) for one in reversed(plain_list(workshop, plate_id))]
    history = history_of(workshop, plate_id)
    named = chain.from_iterable(every_source(one) for one in (stack, *(proof for _, proof in pulled)))
    names: dict[str, str] = {}
    with workshop.store.session() as session:
        for asset in (*(one.source for one in named), *history.assets):
            if asset not in names:
                head = workshop.store.assets.read(asset)[:4]
                suffix = next((end for start, end in SUFFIXES.items() if head.startswith(start)), "")
                names[asset] = f"{PICTURES}/{len(names) + 1:02}-{_clean(asset_of(session, asset).name)}{suffix}"
    proofs = [
        ({"name": one.name, "note": one.note, "at": one.at.isoformat(), "stack": f"proof-{number:03}.json"},
         with_sources(proof, names.__getitem__))
        for number, (one, proof) in enumerate(pulled, 1)
    ]  # fmt: skip
    kits = {f"{KITS}/{name}": content for name, content in _kits_of(workshop, stack)}
    pictures = {asset: names[asset] for asset in history.assets}
    log = {**history.plain, "pictures": pictures, "kits": list(kits)}
    files = {name: asset for asset, name in names.items()}
    return Saved(with_sources(stack, names.__getitem__), files, proofs, log, history.objects, kits)


def write_archive(workshop: Workshop, plate_id: int, stream: IO[bytes]) -> None:
    """Write a plate with its whole history, its pictures as they came, and the kits it may have used, as a ZIP."""
    with zipfile.ZipFile(stream, "w") as archive:
        archive_files(workshop, plate_id, archive)


def archive_files(workshop: Workshop, plate_id: int, archive: zipfile.ZipFile, below: str = "") -> None:
    """Write the files of a plate's archive into a ZIP, below a folder of it."""
    plate = saved(workshop, plate_id)
    for name, text in plate.texts:
        archive.writestr(below + name, text, zipfile.ZIP_DEFLATED)
    with archive.open(zipfile.ZipInfo(below + OBJECTS_FILE), "w") as objects:
        for line in object_lines(workshop, plate.objects):
            objects.write(line)
    for name, content in plate.kits.items():
        archive.writestr(below + name, content, zipfile.ZIP_DEFLATED)
    for name, asset in plate.files.items():
        archive.writestr(below + name, workshop.store.assets.read(asset), zipfile.ZIP_STORED)


def stack_text(workshop: Workshop, plate_id: int) -> str:
    """The text of a plate's stack file alone: pictures are named by their hashes, by which a data folder that has them
    finds them again."""
    return write_stack(workshop.current(plate_id).stack, VOCABULARY)


def write_folder(workshop: Workshop, plate_id: int, folder: Path) -> Path:
    """Write a plate's stack file and its pictures into a folder; returns the stack file."""
    plate = saved(workshop, plate_id)
    (folder / PICTURES).mkdir(parents=True, exist_ok=True)
    for name, asset in plate.files.items():
        (folder / name).write_bytes(workshop.store.assets.read(asset))
    for name, text in plate.texts:
        (folder / name).write_text(text)
    (folder / OBJECTS_FILE).parent.mkdir(exist_ok=True)
    with (folder / OBJECTS_FILE).open("wb") as objects:
        objects.writelines(object_lines(workshop, plate.objects))
    for name, content in plate.kits.items():
        (folder / KITS).mkdir(exist_ok=True)
        (folder / name).write_bytes(content)
    return folder / STACK_FILE


def _kits_of(workshop: Workshop, stack: Stack) -> Iterator[tuple[str, bytes]]:
    """The kits that are kept here and have the name of a group of the stack: those it was worked on with."""
    names = {layer.name for layer in stack.walk() if layer.kind == "group"}
    for kit in list_kits(workshop):
        if kit.name in names:
            yield written_kit(workshop, kit.id)


def open_stack(workshop: Workshop, text: bytes, beside: Beside, name: str) -> int:
    """Put a plate made of a stack file and the pictures beside it on the shelf; returns its id. Raises DocumentError
    with every fault; the shelf is unchanged then."""
    assets: dict[str, str] = {}
    kept = _with_assets(workshop, read_stack(text, VOCABULARY), beside, assets)
    proofs = [
        (entry, _with_assets(workshop, read_stack(beside(entry["stack"]), VOCABULARY), beside, assets))
        for entry in _proofs_beside(beside)
    ]
    log = _log_beside(beside)
    for _, proof in proofs:
        workshop.admit(proof)
    plate_id = keep_first(workshop, plate_name(name), kept.base.source, kept, "Opened with its stack")
    try:
        for entry, proof in proofs:
            take_in(workshop, plate_id, proof, entry["name"], entry["note"], entry["at"])
        if log is not None:
            take_history_in(workshop, plate_id, log, beside)
    except Exception:
        with workshop.store.writing() as session:
            remove_for_good(session, [plate_id])
        raise
    _take_kits_in(workshop, (log or {}).get("kits"), beside)
    return plate_id


def _take_kits_in(workshop: Workshop, names: object, beside: Beside) -> None:
    """Keep the kits that came with a plate; one whose name is taken, or that cannot be read, is left out."""
    for name in names if isinstance(names, list) else ():
        with suppress(GlypticError):
            read_kit_files(workshop, {PurePosixPath(str(name)).name: beside(str(name))})


def _log_beside(beside: Beside) -> dict[str, Any] | None:
    try:
        text = beside(LOG_FILE)
    except PictureError:
        return None
    return read_log(text)


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


def open_stack_file(workshop: Workshop, path: Path) -> int:
    """Put a stack file on this disk, with the pictures beside it, on the shelf."""
    folder = path.parent.resolve()

    def beside(source: str) -> bytes:
        there = (folder / source).resolve()
        if not there.is_relative_to(folder) or not there.is_file():
            raise PictureError("is not beside the stack file.")
        return there.read_bytes()

    return open_stack(workshop, path.read_bytes(), beside, path.parent.name if path.name == STACK_FILE else path.stem)


def opened_together(workshop: Workshop, files: dict[str, bytes]) -> Iterator[int]:
    """Put files that were chosen together on the shelf: a stack file takes the pictures it names from among them."""
    beside_stacks = {LOG_FILE, PROOFS_FILE, *_proofs_among(files)}
    stacks = [name for name in files if name.lower().endswith(".json") and name not in beside_stacks]

    def beside(source: str) -> bytes:
        found = files.get(PurePosixPath(source).name)
        if found is None and source in workshop.store.assets:
            return workshop.store.assets.read(source)
        if found is None:
            raise PictureError("was not chosen together with the stack file, and is not in this data folder.")
        return found

    for name in stacks:
        yield open_stack(workshop, files[name], beside, name)


def _proofs_among(files: dict[str, bytes]) -> list[str]:
    """The stack files of proofs among files that were chosen together."""
    try:
        return [str(entry["stack"]) for entry in read_proofs(files[PROOFS_FILE])]
    except (KeyError, DocumentError):
        return []
