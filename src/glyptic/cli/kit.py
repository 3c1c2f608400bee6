"""`glyptic kit`: a kit applied to pictures or stack files, one file for each."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from glyptic.base.errors import DocumentError, ExportError, Fault
from glyptic.cli.options import number, whole
from glyptic.engine.heap import share_one_heap

if TYPE_CHECKING:
    from glyptic.actions.kits.files import Outcome
    from glyptic.actions.runs.cluster import Cluster
    from glyptic.actions.runs.runners import Runner

SOME_FAILED = 1
WHOLE_NUMBERS = {
    "depth": (8, 16), "quality": (1, 100), "limit": (1, 100_000), "jobs": (1, 256), "long_edge": (0, 100_000),
}  # fmt: skip
"""Options that are whole numbers, and their ranges."""


def declare(commands: Any) -> None:
    parser = commands.add_parser("kit", help="apply a kit to pictures or stack files, and write one file for each")
    parser.add_argument("kit", type=Path, metavar="KIT.json")
    parser.add_argument("pictures", type=Path, nargs="+", metavar="PICTURE-or-STACK.json")
    parser.add_argument("--into", type=Path, required=True, metavar="FOLDER", help="where the files go")
    parser.add_argument("--strength", default="1", metavar="S", help="0..1: the opacity of the kit's group")
    parser.add_argument("--format", default="png", metavar="png|tif|jpg")
    parser.add_argument("--depth", default="8", metavar="8|16", help="bits a channel")
    parser.add_argument("--quality", default="92", metavar="Q", help="JPEG quality, 1 to 100")
    parser.add_argument("--long-edge", default="0", metavar="PX", help="the longest edge of what is written; 0 for any")
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
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int | None:
    """Check everything first: where nothing can be begun, nothing is; then go through the pictures."""
    from glyptic.actions.kits.files import MEGAPIXEL, SUFFIXES, is_done, jobs_of, run_jobs
    from glyptic.actions.runs.cluster import Cluster
    from glyptic.actions.runs.parcels import run_parcels
    from glyptic.actions.runs.runners import Here, Processes
    from glyptic.document.kits import read_kit
    from glyptic.engine.vocabulary import VOCABULARY
    from glyptic.formats.writing import Output

    share_one_heap()
    faults: list[Fault] = []
    strength = number(options.strength, "strength", 0, 1, faults)
    depth, quality, limit, jobs, edge = (
        whole(getattr(options, name), name, *span, faults) for name, span in WHOLE_NUMBERS.items()
    )
    suffix = SUFFIXES.get(options.format)
    if suffix is None:
        faults.append(Fault("format", f"must be one of {', '.join(SUFFIXES)}, not {options.format[:20]!r}"))
    try:
        Output.for_path(Path(f"x{suffix or '.png'}"), depth, quality)
        read_kit(options.kit.read_bytes(), VOCABULARY)
        options.into.mkdir(parents=True, exist_ok=True)
    except DocumentError as error:
        faults += [Fault(f"kit.{fault.field}".rstrip("."), fault.message) for fault in error.faults]
    except ExportError as error:
        faults.append(Fault("output", str(error)))
    except OSError as error:
        faults.append(Fault(str(error.filename or options.kit), f"cannot be used: {error.strerror}"))
    if faults:
        raise DocumentError(faults)
    if options.cluster:
        options.kit, options.into = options.kit.resolve(), options.into.resolve()
        options.pictures = [path.resolve() for path in options.pictures]
    wanted = jobs_of(
        options.kit, options.pictures, options.into, suffix or "", options.stacks, strength=strength, depth=depth,
        quality=quality, long_edge=edge, limit=limit * MEGAPIXEL,
    )  # fmt: skip
    if options.again:
        wanted = [job for job in wanted if not is_done(job)]
    runner: Runner
    run_all = run_jobs
    if options.cluster:
        runner = Cluster(options.cluster)
        if options.send == "pictures" or (options.send == "auto" and not _seen(runner, options)):
            run_all = run_parcels
    else:
        runner = Processes(jobs) if jobs > 1 and len(wanted) > 1 else Here()
    try:
        return SOME_FAILED if run_all(wanted, runner, _tell) else None
    finally:
        runner.close()


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
