"""What a kit finds in a picture, looked for away from the server: plain data in, the find and what it is worth out."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from glyptic.actions.file_pictures import FilePictures
from glyptic.actions.kits.adding import kept_kit
from glyptic.actions.kits.files import Applied
from glyptic.actions.kits.flags import finds, flags
from glyptic.actions.render_file import Opened
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import GlypticError
from glyptic.document.codec import read_stack
from glyptic.document.kits import read_kit, with_kit_sources, write_kit
from glyptic.document.values import Stack
from glyptic.document.writing import write_stack
from glyptic.engine.gate import every_source
from glyptic.engine.plan import make_plan
from glyptic.engine.vocabulary import VOCABULARY


@dataclass(frozen=True)
class Look:
    """A picture to be looked at: the texts of its stack file and of the kit, and where each source lies. folder: that
    the kit's pictures lie in; limit: pixels a picture may have."""

    stack: str
    files: tuple[tuple[str, str], ...]
    kit: str
    folder: str
    limit: int


@dataclass(frozen=True)
class Found:
    """The backdrop as a PNG, and what is to be looked at; or why there is none."""

    backdrop: bytes = b""
    notes: tuple[str, ...] = ()
    trouble: str = ""


def look_of(workshop: Workshop, stack: Stack, asked: Mapping[str, Any]) -> Look | None:
    """What is to be looked at before a kit is laid on a plate; None where it finds nothing by itself."""
    kit = kept_kit(workshop, int(asked["kit"]))
    if not finds(kit):
        return None
    assets = workshop.store.assets
    sources = dict.fromkeys(source for _, source, *_ in every_source(stack))
    inside = with_kit_sources(kit, lambda source: str(assets.path(source).relative_to(assets.folder)))
    return Look(
        write_stack(stack, VOCABULARY), tuple((source, str(assets.path(source).resolve())) for source in sources),
        write_kit(inside, VOCABULARY), str(assets.folder.resolve()), workshop.limit,
    )  # fmt: skip


def find_for(look: Look) -> Found:
    """Find what a kit finds; never raises for what is wrong with that picture."""
    try:
        stack, kit = read_stack(look.stack, VOCABULARY), read_kit(look.kit, VOCABULARY)
        paths = {source: Path(path) for source, path in look.files}
        pictures = FilePictures(stack.working_space, paths.__getitem__, look.limit)
        opened = Opened(stack, pictures, Path(look.folder) / "stack.json")
        applied = Applied(opened, kit, Path(look.folder), look.limit)
        laid = applied.stack(1.0)
        told = [*applied.notes, *flags(laid, lambda other: make_plan(other, applied.pictures), stack)]
        return Found(applied.made.get(applied.found, b""), tuple(told))
    except (GlypticError, OSError) as error:
        return Found(trouble=str(error))
