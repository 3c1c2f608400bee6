"""Deliveries: how a finished picture is written, kept by name; and the writing itself, as work for any runner."""

from __future__ import annotations

import json
import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from glyptic.actions.export import safe_name
from glyptic.actions.file_pictures import FilePictures
from glyptic.actions.finished import write_finished
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import DocumentError, Fault, GlypticError
from glyptic.document.codec import read_stack
from glyptic.document.values import Stack
from glyptic.document.writing import write_stack
from glyptic.engine.gate import every_source
from glyptic.engine.plan import AT_REST, make_plan
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats.writing import Output, write_whole
from glyptic.params import Choice, Schema, Text, Values, Whole
from glyptic.store.faults import told

FILE = "deliveries.json"
MOST = 24
FIELDS = {
    "name": "the plate's name",
    "number": "its place in the run, 001 and on",
    "shoot": "the shoot's name",
    "date": "the day it was taken, or that of the run",
    "delivery": "the delivery's name",
}
"""What a name pattern may hold in braces."""
FIELD = re.compile(r"\{([^{}]*)\}")
SUFFIXES = {"jpg": ".jpg", "png": ".png", "tif": ".tif"}


def _deep_enough(values: Values) -> tuple[str, str] | None:
    if values["depth"] == "16" and values["format"] == "jpg":
        return "depth", "must be 8 for JPEG"
    unknown = [name for name in FIELD.findall(values["pattern"]) if name not in FIELDS]
    if unknown:
        return "pattern", f"has {{{unknown[0][:20]}}}, which is none of {', '.join(f'{{{name}}}' for name in FIELDS)}"
    return None


DELIVERY = Schema(
    {
        "name": Text(label="Name", longest=40, help="What the delivery is called."),
        "format": Choice(label="Format", options=("jpg", "png", "tif"), titles=("JPEG", "PNG", "TIFF"), default="jpg"),
        "depth": Choice(label="Bits a channel", options=("8", "16"), default="8"),
        "quality": Whole(label="Quality", low=1, high=100, default=92, help="Of a JPEG."),
        "long_edge": Whole(
            label="Longest edge",
            low=0,
            high=100_000,
            default=0,
            unit="px",
            help="0 for the size it has; never enlarged.",
        ),
        "pattern": Text(label="File name", longest=120, default="{name}", help="With fields in braces."),
    },
    (_deep_enough,),
)
STARTING: tuple[dict[str, Any], ...] = (
    {"name": "Web", "format": "jpg", "quality": 85, "long_edge": 2048},
    {"name": "Print", "format": "tif", "depth": "16"},
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


def read_delivery(text: bytes) -> Values:
    """A delivery of a file of its own, which is an object of these fields; raises DocumentError with every fault."""
    try:
        plain = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise DocumentError([Fault("", f"is not JSON: {error}")]) from None
    faults: list[Fault] = []
    found = DELIVERY.parse(plain, "", faults)
    if found is None:
        raise DocumentError(faults)
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


def _filled(pattern: str, fields: dict[str, str]) -> str:
    return FIELD.sub(lambda found: fields[found[1]], pattern)


def file_names(delivery: Values, plates: Sequence[Named], today: datetime) -> list[str]:
    """The names of the files of several plates, each its own."""
    taken: set[str] = set()
    names = []
    for number, plate in enumerate(plates, 1):
        day = (plate.taken or today).strftime("%Y-%m-%d")
        fields = {"name": plate.name, "number": f"{number:03}", "shoot": plate.shoot, "date": day}
        fields["delivery"] = delivery["name"]
        stem = safe_name(_filled(delivery["pattern"], fields))[:120]
        unique, more = stem, 2
        while unique.casefold() in taken:
            unique, more = f"{stem}-{more}", more + 1
        taken.add(unique.casefold())
        names.append(f"{unique}{SUFFIXES[delivery['format']]}")
    return names


@dataclass(frozen=True)
class Deliver:
    """A picture to be written: plain data. stack: the text of its stack file; files: where each source lies; out: the
    file to write; limit: pixels a picture may have."""

    stack: str
    files: tuple[tuple[str, str], ...]
    out: str
    depth: int
    quality: int
    long_edge: int
    limit: int


@dataclass(frozen=True)
class Delivered:
    """What became of it: bytes written, or why none were."""

    size: int = 0
    trouble: str = ""


def job_of(workshop: Workshop, stack: Stack, delivery: Values, out: Path) -> Deliver:
    """The job of writing a stack of this data folder as a delivery says."""
    sources = dict.fromkeys(source for _, source, *_ in every_source(stack))
    files = tuple((source, str(workshop.store.assets.path(source).resolve())) for source in sources)
    return Deliver(
        write_stack(stack, VOCABULARY), files, str(out.resolve()), int(delivery["depth"]), int(delivery["quality"]),
        int(delivery["long_edge"]), workshop.limit,
    )  # fmt: skip


def deliver(job: Deliver) -> Delivered:
    """Write a delivery's file, whole or not at all; never raises for what is wrong with that one."""
    try:
        out = Path(job.out)
        stack = read_stack(job.stack, VOCABULARY)
        paths = {source: Path(path) for source, path in job.files}
        pictures = FilePictures(stack.working_space, paths.__getitem__, job.limit)
        output = Output.for_path(out, job.depth, job.quality)
        plan = make_plan(stack, pictures, finer=AT_REST)
        out.parent.mkdir(parents=True, exist_ok=True)
        write_finished(out, plan, output, pictures.decoded(*stack.base.picture).metadata, job.long_edge)
        return Delivered(out.stat().st_size)
    except DocumentError as error:
        return Delivered(trouble="; ".join(str(fault) for fault in error.faults[:3]))
    except GlypticError as error:
        return Delivered(trouble=str(error))
    except OSError as error:
        return Delivered(trouble=f"The file could not be written ({error.strerror or error}); nothing of it is left.")
