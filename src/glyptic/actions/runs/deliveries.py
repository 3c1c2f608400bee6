"""Deliveries: how a finished picture is written, kept by name; and the writing itself, as work for any runner."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from glyptic.actions.delivery import Written, write_delivery
from glyptic.actions.export import safe_name
from glyptic.actions.file_pictures import FilePictures
from glyptic.actions.finished import Finished
from glyptic.actions.made_at_rest import taken
from glyptic.actions.presses import PRACTICE, profile_of
from glyptic.actions.render_file import Came
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.document.codec import read_stack
from glyptic.document.delivery import DELIVERY, FIELD, KINDS, OWN, WORKING, parsed_delivery
from glyptic.document.values import Stack
from glyptic.document.writing import write_stack
from glyptic.engine.gate import every_source
from glyptic.engine.plan import AT_REST, make_plan
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.as_it_came import own_profile
from glyptic.formats.wish import Wish
from glyptic.formats.writing import write_whole
from glyptic.params import Values
from glyptic.pixels.spaces import SPACES
from glyptic.store.faults import told

FILE = "deliveries.json"
MOST = 24
STARTING: tuple[dict[str, Any], ...] = (
    {"name": "Web", "format": "jpg", "quality": 85, "long_edge": 2048},
    {"name": "Print", "format": "tif", "depth": "16", "profile": PRACTICE, "intent": "relative"},
    {"name": "Archive", "format": "tif", "depth": "16", "packed": "zstd", "profile": WORKING},
)


def _parsed(plain: object, faults: list[Fault]) -> list[Values]:
    rows = plain if isinstance(plain, list) and len(plain) <= MOST else [None]
    found = [DELIVERY.parse(row, f"deliveries[{i}]", faults) for i, row in enumerate(rows)]
    names = [one["name"].casefold() for one in found if one is not None]
    if len(set(names)) < len(names):
        faults.append(Fault("deliveries", "must each have a name of its own"))
    return [one for one in found if one is not None]


def kept_deliveries(workshop: Workshop) -> list[Values]:
    """The deliveries of this data folder; those one begins with where none were kept, or they cannot be read."""
    faults: list[Fault] = []
    try:
        found = _parsed(json.loads((workshop.store.folder / FILE).read_text()), faults)
    except (OSError, ValueError, RecursionError):
        found = []
    return found if found and not faults else _parsed(list(STARTING), [])


def keep_deliveries(workshop: Workshop, plain: object) -> list[Values]:
    """Keep deliveries; raises DocumentError with every fault."""
    faults: list[Fault] = []
    found = _parsed(plain, faults)
    if faults:
        raise DocumentError(faults)
    with told():
        text = json.dumps([DELIVERY.plain(one) for one in found], indent=1, ensure_ascii=False)
        write_whole(workshop.store.folder / FILE, text.encode())
    return found


def stems_of(delivery: Values, pictures: Sequence[Path]) -> list[str]:
    """The names, without endings, of the files of pictures that lie in a folder: it stands for their shoot."""
    named = [Named(path.stem, path.resolve().parent.name) for path in pictures]
    return [Path(name).stem for name in file_names(delivery, named, datetime.now())]


@dataclass(frozen=True)
class Named:
    """What of a plate stands in the name of its file. taken: when it was taken, or None."""

    name: str
    shoot: str = ""
    taken: datetime | None = None
    title: str = ""


def _filled(pattern: str, fields: dict[str, str]) -> str:
    return FIELD.sub(lambda found: fields[found[1]], pattern)


def file_names(delivery: Values, plates: Sequence[Named], today: datetime) -> list[str]:
    """The names of the files of several plates, each its own."""
    taken: set[str] = set()
    names = []
    for number, plate in enumerate(plates, 1):
        day = (plate.taken or today).strftime("%Y-%m-%d")
        fields = {"name": plate.name, "number": f"{number:03}", "shoot": plate.shoot, "date": day}
        fields |= {"delivery": delivery["name"], "title": plate.title or plate.name}
        stem = safe_name(_filled(delivery["pattern"], fields))[:120]
        unique, more = stem, 2
        while unique.casefold() in taken:
            unique, more = f"{stem}-{more}", more + 1
        taken.add(unique.casefold())
        names.append(f"{unique}{KINDS[delivery['format']].suffixes[0]}")
    return names


@dataclass(frozen=True)
class Deliver:
    """A picture to be written: plain data. stack: the text of its stack file; files: where each source lies; out: the
    file to write; delivery: as plain data; profile: its bytes, where it is no working space; limit: pixels a picture
    may have; codes: a file of what was made of it at rest, or ''."""

    stack: str
    files: tuple[tuple[str, str], ...]
    out: str
    delivery: dict[str, Any]
    profile: bytes
    limit: int
    codes: str = ""


@dataclass(frozen=True)
class Delivered:
    """What became of it: bytes written, or why none were."""

    size: int = 0
    trouble: str = ""


def profile_for(workshop: Workshop, stack: Stack, name: str) -> bytes:
    """The bytes of the profile that a delivery names: one that is kept, or that the picture came with."""
    if name == OWN:
        return own_profile(workshop.store.assets.path(stack.base.source))
    return profile_of(workshop, name)


def job_of(workshop: Workshop, stack: Stack, delivery: Values, out: Path, codes: str = "") -> Deliver:
    """The job of writing a stack of this data folder as a delivery says."""
    sources = dict.fromkeys(source for _, source, *_ in every_source(stack))
    files = tuple((source, str(workshop.store.assets.path(source).resolve())) for source in sources)
    name = delivery["profile"]
    profile = b"" if name in (WORKING, *SPACES) else profile_for(workshop, stack, name)
    return Deliver(
        write_stack(stack, VOCABULARY),
        files,
        str(out.resolve()),
        DELIVERY.plain(delivery),
        profile,
        workshop.limit,
        codes,
    )


def deliver(job: Deliver) -> Delivered:
    """Write a delivery's file, whole or not at all; never raises for what is wrong with that one."""
    try:
        out = Path(job.out)
        stack = read_stack(job.stack, VOCABULARY)
        paths = {source: Path(path) for source, path in job.files}
        pictures = FilePictures(stack.working_space, paths.__getitem__, job.limit)
        plan = make_plan(stack, pictures, finer=AT_REST)
        out.parent.mkdir(parents=True, exist_ok=True)
        written = Written(parsed_delivery(job.delivery), job.profile)
        base = pictures.decoded(*stack.base.picture)
        came = Came(paths[stack.base.source], Wish.of(stack.working_space, stack.base.reading))
        source = came if written.values["profile"] == OWN else None
        finished = Finished(plan, written.values["border"], kept=taken(job.codes, plan))
        write_delivery(out, finished, written, base.metadata, stack.notes.words, source=source)
        return Delivered(out.stat().st_size)
    except DocumentError as error:
        return Delivered(trouble="; ".join(str(fault) for fault in error.faults[:3]))
    except GlypticError as error:
        return Delivered(trouble=str(error))
    except OSError as error:
        return Delivered(trouble=f"The file could not be written ({error.strerror or error}); nothing of it is left.")
