"""The kits of a data folder: kept from plates, read from files and written to them, described, removed."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import PurePosixPath

from glyptic.actions.export import safe_name
from glyptic.actions.kits.adding import kept_kit, kit_in
from glyptic.actions.open_picture import keep_asset
from glyptic.actions.workshop import Workshop
from glyptic.actions.zips import NO_ARCHIVE, SUFFIXES, Beside, is_archive, opened_zip
from glyptic.base.errors import DocumentError, Fault, NameTaken, PictureError
from glyptic.document.kit_making import Keeping, kit_of
from glyptic.document.kits import HEAD, Kit, read_kit, sources_of, with_kit_sources, write_kit
from glyptic.document.opposites import opposite_kit
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.store import kits
from glyptic.store.tables import KeptKit, now

KIT_FILE, PICTURES = "kit.json", "pictures"


@dataclass(frozen=True)
class KitCard:
    """What is shown of a kit. holds: the names of its layers; turns: whether there is a contrary to it."""

    id: int
    name: str
    note: str
    at: datetime
    holds: tuple[str, ...]
    size: tuple[int, int]
    turns: bool
    finds: bool
    """Whether something in it is found in each picture."""


def list_kits(workshop: Workshop, removed: bool = False) -> list[KitCard]:
    """The kits (or those in the bin) by their names."""
    with workshop.store.session() as session:
        return [_card(workshop, row) for row in kits.kits(session, removed)]


def _card(workshop: Workshop, row: KeptKit) -> KitCard:
    kit = kit_in(workshop, row.content)
    names = tuple(layer.name for layer in (*kit.layers, *kit.frame_layers))
    finds = '"found"' in row.content
    turns = opposite_kit(kit, VOCABULARY) is not None
    return KitCard(row.id, kit.name, kit.note, row.at, names, kit.size, turns, finds)


def keep_kit(
    workshop: Workshop, plate_id: int, chosen: list[str], keeping: Keeping, in_place_of: int | None = None
) -> int:
    """Keep chosen layers of a plate as a kit; returns its number. in_place_of: the kit that becomes this one. Raises
    DocumentError with every fault, NameTaken where another kit is called so; nothing is kept then."""
    current = workshop.current(plate_id)
    canvas = workshop.base_of(current.stack).canvas
    made = kit_of(current.stack, chosen, (canvas.width, canvas.height), keeping, VOCABULARY)
    return _keep(workshop, made, in_place_of)


def _keep(workshop: Workshop, kit: Kit, in_place_of: int | None = None) -> int:
    content = write_kit(kit, VOCABULARY)
    kit_in(workshop, content)
    with workshop.store.writing() as session:
        other = kits.named(session, kit.name)
        if other is not None and other.id != in_place_of:
            raise NameTaken(kit.name, other.id)
        row = KeptKit() if in_place_of is None else kits.kit_of(session, in_place_of)
        row.name, row.content, row.at = kit.name, content, now()
        session.add(row)
        session.flush()
        return row.id


def reword_kit(workshop: Workshop, kit_id: int, name: str, note: str) -> None:
    """Another name and note for a kit; raises DocumentError or NameTaken."""
    kit = kept_kit(workshop, kit_id)
    faults: list[Fault] = []
    plain = {"name": name.strip(), "note": " ".join(note.split()), "size": list(kit.size)}
    head = HEAD.parse(plain, "", faults)
    if head is None:
        raise DocumentError(faults)
    _keep(workshop, replace(kit, name=head["name"], note=head["note"]), kit_id)


def remove_kit(workshop: Workshop, kit_id: int) -> None:
    """Put a kit into the bin; what it made stays where it is."""
    with workshop.store.writing() as session:
        kits.kit_of(session, kit_id).removed_at = now()


def put_kit_back(workshop: Workshop, kit_id: int) -> None:
    """Take a kit out of the bin, under the next free name where its own is taken by now."""
    with workshop.store.writing() as session:
        row = kits.kit_of(session, kit_id, removed=True)
        kit = kit_in(workshop, row.content)
        name, number = kit.name, 2
        while (other := kits.named(session, name)) is not None and other.id != kit_id:
            name, number = f"{kit.name[:74]} {number}", number + 1
        row.name, row.content, row.removed_at = name, write_kit(replace(kit, name=name), VOCABULARY), None


def take_kit_in(workshop: Workshop, text: bytes, beside: Beside, in_place_of: int | None = None) -> int:
    """Keep the kit of a kit file, with the pictures beside it; returns its number. Raises DocumentError with every
    fault, NameTaken where there is one of that name; nothing is kept then."""
    kit = read_kit(text, VOCABULARY)
    faults: list[Fault] = []
    assets: dict[str, str] = {}
    for source in sources_of(kit):
        try:
            assets[source] = keep_asset(workshop, beside(source), PurePosixPath(source).name)
        except PictureError as error:
            faults.append(Fault("source", f"{source[:80]}: {error}"))
    if faults:
        raise DocumentError(faults)
    return _keep(workshop, with_kit_sources(kit, assets.__getitem__), in_place_of)


def read_kit_files(workshop: Workshop, files: dict[str, bytes], in_place_of: int | None = None) -> list[int]:
    """Keep the kits among files that were chosen together: each a JSON with its pictures beside it, or a ZIP of both.
    Raises for the first that cannot be kept."""

    def beside(source: str) -> bytes:
        found = files.get(PurePosixPath(source).name)
        if found is None:
            raise PictureError("was not chosen together with the kit file.")
        return found

    made = []
    for name, content in files.items():
        if is_archive(content[:4]):
            with opened_zip(io.BytesIO(content), KIT_FILE, NO_KIT) as (text, inside):
                made.append(take_kit_in(workshop, text, inside, in_place_of))
        elif name.lower().endswith(".json"):
            made.append(take_kit_in(workshop, content, beside, in_place_of))
    if not made:
        raise PictureError("No kit file was among them; nothing was changed. Choose a JSON or a ZIP of a kit.")
    return made


NO_KIT = NO_ARCHIVE.replace("a plate", "a kit")


def written_kit(workshop: Workshop, kit_id: int) -> tuple[str, bytes]:
    """The name and the bytes of a kit's file: JSON, or a ZIP with its pictures beside it where it has any."""
    kit = kept_kit(workshop, kit_id)
    sources = sources_of(kit)
    if not sources:
        return f"{safe_name(kit.name)}.json", write_kit(kit, VOCABULARY).encode()
    contents = {source: workshop.store.assets.read(source) for source in sources}
    names = {source: f"{PICTURES}/{source[:16]}{_suffix(content)}" for source, content in contents.items()}
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        text = write_kit(with_kit_sources(kit, names.__getitem__), VOCABULARY)
        archive.writestr(KIT_FILE, text, zipfile.ZIP_DEFLATED)
        for source, content in contents.items():
            archive.writestr(names[source], content, zipfile.ZIP_STORED)
    return f"{safe_name(kit.name)}.zip", packed.getvalue()


def _suffix(content: bytes) -> str:
    return next((end for start, end in SUFFIXES.items() if content.startswith(start)), "")
