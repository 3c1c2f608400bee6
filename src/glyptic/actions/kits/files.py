"""Kits applied to files, without any server. One picture is one `work`: plain data in, an outcome out."""

from __future__ import annotations

import shutil
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field, replace
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from glyptic.actions.delivery import Written, write_delivery
from glyptic.actions.file_pictures import FilePictures
from glyptic.actions.finished import Finished
from glyptic.actions.kits.fitting import backdrop_of, fitted_layer
from glyptic.actions.kits.flags import finds, flags
from glyptic.actions.render_file import Opened, open_stack_file, path_below
from glyptic.actions.runs.runners import Runner, results
from glyptic.base.errors import DocumentError, GlypticError
from glyptic.base.rectangles import Canvas
from glyptic.document.delivery import parsed_delivery
from glyptic.document.kits import Kit, added, read_kit, scaled_kit
from glyptic.document.sources import with_sources
from glyptic.document.values import Layer, Stack
from glyptic.document.writing import write_stack
from glyptic.engine.gate import check_reach
from glyptic.engine.plan import AT_REST, make_plan
from glyptic.engine.vocabulary import VOCABULARY
from glyptic.formats import read_picture
from glyptic.formats.decoded import Decoded, Metadata
from glyptic.formats.writing import Output, encode_picture, write_whole
from glyptic.params import Values
from glyptic.pixels.pyramid import Picture

MEGAPIXEL = 1_000_000
PICTURES = "pictures"
"""Beside written stacks lie the pictures they refer to."""
GREY = Output("png", 8)


@dataclass(frozen=True)
class Job:
    """One picture to be worked on. kit, picture: paths; out: the file to write; stack: of the stack, '' for none;
    delivery: how it is written, as plain data; profile: the delivery's, in bytes."""

    kit: str
    picture: str
    out: str
    strength: float = 1.0
    stack: str = ""
    delivery: dict[str, Any] = field(default_factory=dict)
    profile: bytes = b""
    limit: int = 100 * MEGAPIXEL


@dataclass(frozen=True)
class Outcome:
    """What became of a job. trouble: why it failed, '' where it did not; notes: what is to be looked at."""

    job: Job
    trouble: str = ""
    notes: tuple[str, ...] = ()


def work(job: Job) -> Outcome:
    """Apply a kit to one picture, or stack, and write the result; never raises for what is wrong with that one."""
    try:
        return Outcome(job, notes=tuple(_done(job)))
    except DocumentError as error:
        return Outcome(job, "; ".join(str(fault) for fault in error.faults[:3]))
    except GlypticError as error:
        return Outcome(job, str(error))
    except OSError as error:
        return Outcome(job, f"The file could not be written ({error.strerror or error}); nothing of it is left.")


def _done(job: Job) -> Iterator[str]:
    kit_path = Path(job.kit)
    kit = read_kit(kit_path.read_bytes(), VOCABULARY)
    opened = opened_picture(Path(job.picture), job.limit)
    applied = Applied(opened, kit, kit_path.parent, job.limit)
    stack = applied.stack(job.strength)
    pictures = applied.pictures
    if finds(kit):
        applied.notes += flags(stack, lambda other: make_plan(other, pictures), opened.stack)
    delivery = Written(parsed_delivery({"name": "kit", **job.delivery}), job.profile)
    plan = make_plan(stack, pictures, finer=AT_REST)
    write_delivery(
        Path(job.out), Finished(plan, delivery.values["border"]), delivery, opened.base.metadata, stack.notes.words
    )
    if job.stack:
        write_stack_beside(Path(job.stack), stack, applied)
    yield from applied.notes


def opened_picture(path: Path, limit: int) -> Opened:
    """A picture as a stack of nothing but itself; or a stack file with its pictures."""
    if path.suffix.lower() == ".json":
        return open_stack_file(path, limit)
    space = read_picture(path, limit).space.name
    base = Layer("base", "picture", path.stem[:80] or "Base", source=path.name)
    return Opened(Stack((base,), space), FilePictures(space, lambda source: path, limit), path)


class Applied:
    """A kit on an opened picture: its layers scaled, what is to be found found, its own pictures read and fitted.

    added: by source, pictures of the kit and those made here. files: where a source lies on disk; made: those that
    were made here, as PNG. notes: what is to be looked at."""

    def __init__(self, opened: Opened, kit: Kit, folder: Path, limit: int) -> None:
        self.opened = opened
        self.kit = kit
        self.folder = folder.resolve()
        self.limit = limit
        self.added: dict[str, Picture] = {}
        self.files: dict[str, Path] = {}
        self.made: dict[str, bytes] = {}
        self.notes: list[str] = []
        self.found = ""
        """The source of the backdrop that was found, or ''."""

    @property
    def size(self) -> Canvas:
        return self.opened.pictures(*self.opened.stack.base.picture).canvas

    @property
    def sheet(self) -> Canvas:
        frame = self.opened.stack.frame
        return self.size if frame is None else Canvas(*frame.sheet)

    def stack(self, strength: float) -> Stack:
        """The picture's stack with the kit's layers; raises DocumentError or PictureError."""
        scaled = scaled_kit(self.kit, self.size, self.sheet, VOCABULARY, self.notes)
        layers = tuple(fitted_layer(layer, self.size, self) for layer in scaled.layers)
        over = tuple(fitted_layer(layer, self.sheet, self) for layer in scaled.frame_layers)
        stack = added(self.opened.stack, replace(scaled, layers=layers, frame_layers=over), self.size, strength)
        check_reach(stack)
        return stack

    def read(self, source: str) -> Picture:
        """A picture by its source."""
        return self.pictures(source)

    def pictures(self, source: str, reading: Values | None = None) -> Picture:
        """Pictures of the stack, of the kit, and those made here."""
        return self.added[source] if source in self.added else self.opened.pictures(source, reading)

    def own(self, source: str) -> str:
        """A picture of the kit, read."""
        name = f"kit/{source}"
        if name not in self.added:
            path = path_below(self.folder, source)
            self.added[name] = _kits(path, self.limit, self.opened.stack.working_space)
            self.files[name] = path
        return name

    def backdrop(self) -> str:
        """The likely backdrop of the picture; a poor find is noted."""
        codes, poor = backdrop_of(self.read(self.opened.stack.base.source))
        if poor:
            self.notes.append(poor)
        self.found = self.keep(codes, "backdrop")
        return self.found

    def keep(self, codes: NDArray[np.uint8], name: str) -> str:
        """A grey picture (h, w), kept by its content."""
        name = f"{PICTURES}/mask-{sha256(codes.tobytes()).hexdigest()[:16]}.png"
        if name not in self.added:
            self.made[name] = encode_picture(np.repeat(codes[:, :, None], 3, 2), None, GREY, Metadata())
            planes = np.ascontiguousarray(codes[None]).astype(np.uint16) * np.uint16(257)
            self.added[name] = Decoded(planes, None, 8, Metadata()).as_picture(sha256(self.made[name]).digest())
        return name


def _kits(path: Path, limit: int, space: str) -> Picture:
    """A picture of a kit, in the working space of what it is laid on."""
    return FilePictures(space, lambda source: path, limit)(path.name)


def write_stack_beside(path: Path, stack: Stack, applied: Applied) -> None:
    """Write a stack file with every picture it needs below its folder."""
    folder = path.parent / PICTURES
    folder.mkdir(exist_ok=True)
    start = Path(applied.opened.origin).parent

    def kept(source: str) -> str:
        content = applied.made.get(source)
        if content is not None:
            write_whole(path.parent / source, content)
            return source
        there = applied.files.get(source) or start / source
        name = f"{PICTURES}/{sha256(there.read_bytes()).hexdigest()[:16]}{there.suffix.lower()}"
        if not (path.parent / name).exists():
            shutil.copyfile(there, path.parent / name)
        return name

    write_whole(path, write_stack(with_sources(stack, kept), VOCABULARY).encode())


def jobs_of(
    kit: Path, pictures: list[Path], into: Path, suffix: str, stacks: bool, stems: list[str] | None = None, **more: Any
) -> list[Job]:
    """A job for each picture, each with a name of its own: after the picture, or stems where they are given."""
    taken: set[str] = set()
    jobs = []
    for picture, wanted in zip(pictures, stems or [one.stem for one in pictures], strict=True):
        stem, number = wanted, 1
        while f"{stem}{'' if number == 1 else f'-{number}'}" in taken:
            number += 1
        name = f"{stem}{'' if number == 1 else f'-{number}'}"
        taken.add(name)
        stack = str(into / f"{name}.json") if stacks else ""
        jobs.append(Job(str(kit), str(picture), str(into / f"{name}{suffix}"), stack=stack, **more))
    return jobs


def is_done(job: Job) -> bool:
    """Whether what a job writes is there and newer than what it is made of."""
    out = [Path(name) for name in (job.out, job.stack) if name]
    try:
        made = min(path.stat().st_mtime for path in out)
        return made >= max(Path(name).stat().st_mtime for name in (job.kit, job.picture))
    except OSError:
        return False


Told = Callable[[Outcome, int, int], None]


DIED = "The process that worked on it died each time (was there too little memory?). The others went on."


def gave_up(job: Job) -> Outcome:
    """What becomes of a job whose worker dies."""
    return Outcome(job, DIED)


def run_jobs(jobs: list[Job], runner: Runner, told: Told) -> int:
    """Work on all; returns how many failed. told: each outcome, how many are done, and how many there are."""
    outcomes = (outcome for _, outcome in results(runner, work, jobs, gave_up))
    return counted(outcomes, len(jobs), told)


def counted(outcomes: Iterable[Outcome], count: int, told: Told) -> int:
    """Tell of outcomes as they come; returns how many failed."""
    failed = 0
    for done, outcome in enumerate(outcomes, 1):
        failed += bool(outcome.trouble)
        told(outcome, done, count)
    return failed
