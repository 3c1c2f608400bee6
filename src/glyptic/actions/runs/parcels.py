"""Jobs that carry their files with them, for workers that do not see this machine's disks."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from glyptic.actions.kits.files import Job, Outcome, Told, counted, gave_up, work
from glyptic.actions.runs.runners import Runner, results
from glyptic.document.sources import SOURCE
from glyptic.formats.writing import write_whole

KIT, PICTURE, OUT = "kit", "picture", "out"


@dataclass(frozen=True)
class Parcel:
    """A job with the files it needs, by where they lie below a folder of the worker's own."""

    job: Job
    files: tuple[tuple[str, bytes], ...]


@dataclass(frozen=True)
class Returned:
    """An outcome with the files that were written, by where they lie below the folder."""

    outcome: Outcome
    files: tuple[tuple[str, bytes], ...]


def packed(job: Job) -> Parcel:
    """A job as a parcel; a file that cannot be read is left out, and its absence told where the job is worked on."""
    files = [*_with_sources(Path(job.kit), KIT), *_with_sources(Path(job.picture), PICTURE)]
    return Parcel(job, tuple(files))


def _with_sources(path: Path, below: str) -> Iterator[tuple[str, bytes]]:
    """A file, and where it is a kit or a stack file the pictures it names."""
    try:
        content = path.read_bytes()
    except OSError:
        return
    yield f"{below}/{path.name}", content
    if path.suffix.lower() != ".json":
        return
    for source in dict.fromkeys(_named(_plain(content))):
        try:
            yield f"{below}/{source}", _below(path.parent, source).read_bytes()
        except (OSError, ValueError):
            continue


def _plain(content: bytes) -> Any:
    try:
        return json.loads(content)
    except (ValueError, RecursionError):
        return None


def _named(plain: Any) -> Iterator[str]:
    """Every source that plain data names."""
    pending = [plain]
    while pending:
        one = pending.pop()
        if isinstance(one, dict):
            if isinstance(one.get(SOURCE), str):
                yield one[SOURCE]
            pending.extend(one.values())
        elif isinstance(one, list):
            pending.extend(one)


def _below(folder: Path, name: str) -> Path:
    """A path below a folder; raises ValueError for any other."""
    found = (folder / name).resolve()
    if not found.is_relative_to(folder.resolve()):
        raise ValueError(name)
    return found


def work_on_parcel(parcel: Parcel) -> Returned:
    """Unpack a parcel into a folder of its own, do the job there, and return what was written."""
    job = parcel.job
    with TemporaryDirectory(prefix="glyptic-") as made:
        folder = Path(made)
        for name, content in parcel.files:
            path = _below(folder, name)
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_bytes(content)
        (folder / OUT).mkdir()
        here = replace(
            job,
            kit=str(folder / KIT / Path(job.kit).name),
            picture=str(folder / PICTURE / Path(job.picture).name),
            out=str(folder / OUT / Path(job.out).name),
            stack=str(folder / OUT / Path(job.stack).name) if job.stack else "",
        )
        outcome = work(here)
        written = [path for path in sorted((folder / OUT).rglob("*")) if path.is_file()] if not outcome.trouble else []
        files = tuple((str(path.relative_to(folder / OUT)), path.read_bytes()) for path in written)
    return Returned(replace(outcome, job=job), files)


def run_parcels(jobs: list[Job], runner: Runner, told: Told) -> int:
    """As `files.run_jobs`, with the files sent to the workers and back."""
    lost = lambda parcel: Returned(gave_up(parcel.job), ())  # noqa: E731
    found = results(runner, work_on_parcel, map(packed, jobs), lost)
    return counted((unpacked(returned) for _, returned in found), len(jobs), told)


def unpacked(returned: Returned) -> Outcome:
    """Write what came back where the job wanted it, each file whole; never raises for what is wrong with that one."""
    job = returned.outcome.job
    try:
        for name, content in returned.files:
            path = _below(Path(job.out).parent, name)
            path.parent.mkdir(parents=True, exist_ok=True)
            write_whole(path, content)
    except OSError as error:
        return Outcome(job, f"The file could not be written ({error.strerror or error}); nothing of it is left.")
    return returned.outcome
