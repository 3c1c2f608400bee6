"""`glyptic kit`: a kit applied to pictures or stack files, one file for each."""

from __future__ import annotations

import argparse
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from glyptic.base.errors import DocumentError, Fault
from glyptic.cli.delivering import declare_delivery
from glyptic.cli.options import number, whole
from glyptic.engine.heap import share_one_heap

if TYPE_CHECKING:
    from collections.abc import Callable

    from glyptic.actions.delivery import Written
    from glyptic.actions.kits.files import Job, Outcome, Told
    from glyptic.actions.runs.cluster import Cluster
    from glyptic.actions.runs.runners import Runner

T = TypeVar("T")
SOME_FAILED = 1
WHOLE_NUMBERS = {"limit": (1, 100_000), "jobs": (1, 256)}
"""Options that are whole numbers, and their ranges."""


def declare(commands: Any) -> None:
    parser = commands.add_parser("kit", help="apply a kit to pictures or stack files, and write one file for each")
    parser.add_argument("kit", type=Path, metavar="KIT.json")
    parser.add_argument("pictures", type=Path, nargs="+", metavar="PICTURE-or-STACK.json")
    parser.add_argument("--into", type=Path, required=True, metavar="FOLDER", help="where the files go")
    parser.add_argument("--strength", default="1", metavar="S", help="0..1: the opacity of the kit's group")
    parser.add_argument("--stacks", action="store_true", help="write a stack file for each, too")
    parser.add_argument(
        "--again", action="store_true", help="write only what is missing or older than what it is made of"
    )
    parser.add_argument("--jobs", default="1", metavar="N", help="processes at work on this machine")
    parser.add_argument("--cluster", default="", metavar="ADDRESS", help="work on the workers of this Dask scheduler")
    parser.add_argument(
        "--send", choices=("auto", "paths", "pictures"), default="auto",
        help="what workers get: paths on storage they share, or the pictures themselves",
    )  # fmt: skip
    parser.add_argument("--limit", default="100", metavar="MP", help="megapixels a picture may have")
    declare_delivery(parser, formats=True)
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int | None:
    """Check everything first: where nothing can be begun, nothing is; then go through the pictures."""
    from glyptic.actions.kits.files import is_done

    share_one_heap()
    checked = _checked(options)
    runner = _runner(options, checked)
    try:
        wanted = _jobs(options, checked)
        if options.again:
            wanted = [job for job in wanted if not is_done(job)]
        return SOME_FAILED if _way(options, runner)(wanted, runner, _tell) else None
    finally:
        runner.close()


@dataclass(frozen=True)
class Checked:
    """The options as numbers. more: what every job is told; written: how files are written."""

    jobs: int
    more: dict[str, Any]
    written: Written


def _checked(options: argparse.Namespace) -> Checked:
    """Raises DocumentError with every fault of the options, the kit and the delivery."""
    from glyptic.actions.kits.files import MEGAPIXEL
    from glyptic.cli.delivering import delivery_of, plain_of
    from glyptic.document.kits import read_kit
    from glyptic.engine.vocabulary import VOCABULARY

    faults: list[Fault] = []
    _read(options.kit, "kit", lambda text: read_kit(text, VOCABULARY), faults)
    strength = number(options.strength, "strength", 0, 1, faults)
    limit, jobs = (whole(getattr(options, name), name, *span, faults) for name, span in WHOLE_NUMBERS.items())
    written = delivery_of(options, options.format or "", faults)
    if faults or written is None:
        raise DocumentError(faults)
    more = {"strength": strength, "limit": limit * MEGAPIXEL}
    return Checked(jobs, {**more, "delivery": plain_of(written), "profile": written.profile}, written)


def _read(path: Path, name: str, read: Callable[[bytes], T], faults: list[Fault]) -> T | None:
    """What a file holds; None with every fault of it, by its field."""
    try:
        return read(path.read_bytes())
    except DocumentError as error:
        faults += [Fault(f"{name}.{fault.field}".rstrip("."), fault.message) for fault in error.faults]
    except OSError as error:
        faults.append(Fault(str(path), f"cannot be used: {error.strerror}"))
    return None


def _jobs(options: argparse.Namespace, checked: Checked) -> list[Job]:
    """A job for each picture, into a folder that is made where it is not there."""
    from glyptic.actions.kits.files import jobs_of
    from glyptic.actions.runs.deliveries import stems_of

    try:
        options.into.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DocumentError([Fault(str(options.into), f"cannot be used: {error.strerror}")]) from error
    if options.cluster:
        options.kit, options.into = options.kit.resolve(), options.into.resolve()
        options.pictures = [path.resolve() for path in options.pictures]
    stems = stems_of(checked.written.values, options.pictures) if options.delivery else None
    return jobs_of(
        options.kit, options.pictures, options.into, checked.written.suffix, options.stacks, stems, **checked.more
    )  # fmt: skip


def _runner(options: argparse.Namespace, checked: Checked) -> Runner:
    from glyptic.actions.runs.cluster import Cluster
    from glyptic.actions.runs.runners import Here, Processes

    if options.cluster:
        return Cluster(options.cluster)
    return Processes(checked.jobs) if checked.jobs > 1 and len(options.pictures) > 1 else Here()


def _way(options: argparse.Namespace, runner: Runner) -> Callable[[list[Job], Runner, Told], int]:
    """How the jobs reach their workers: as paths, or with the pictures."""
    from glyptic.actions.kits.files import run_jobs
    from glyptic.actions.runs.cluster import Cluster
    from glyptic.actions.runs.parcels import run_parcels

    if isinstance(runner, Cluster) and (
        options.send == "pictures" or (options.send == "auto" and not _seen(runner, options))
    ):
        return run_parcels
    return run_jobs


def _seen(cluster: Cluster, options: argparse.Namespace) -> bool:
    """Whether every worker sees what is read and where it is written."""
    return all(cluster.sees(path.resolve()) for path in (options.kit, options.into, *options.pictures[:1]))


def _tell(outcome: Outcome, done: int, count: int) -> None:
    if outcome.trouble:
        print(f"{outcome.job.picture}: {outcome.trouble}", file=sys.stderr)
    for note in outcome.notes:
        print(f"note: {outcome.job.picture}: {note}", file=sys.stderr)
    if sys.stderr.isatty():
        print(f"{done} of {count}", end="\r", file=sys.stderr)
