"""Export: the finished picture written to a file in the background, with progress."""

from __future__ import annotations

import secrets
import time
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from tempfile import mkdtemp

from glyptic.actions.captions import metadata_of
from glyptic.actions.made_at_rest import from_cache
from glyptic.actions.render_file import write_rendering
from glyptic.actions.workshop import Workshop
from glyptic.base.errors import GlypticError, NotFound
from glyptic.document.values import Stack
from glyptic.engine.plan import make_plan
from glyptic.engine.render import Rendering, cache_for
from glyptic.formats.words import leaving
from glyptic.formats.writing import FORMATS, Output

SHARE_OF_BANDS = 0.95
MOST_BYTES = 8 * 2**30
"""Bytes of finished files that are kept."""
ASKED_FOR = 120.0
"""Seconds for which a file counts as asked for after somebody looked whether it is done."""
LET_GO = "This file was let go to make room for newer ones. The plate is unchanged; write it again."


class Stopped(Exception):
    """The export was given up by the person waiting for it."""


@dataclass
class Job:
    """An export: `share` done 0..1; `state` is waiting, running, done, failed or stopped."""

    id: str
    plate_id: int
    file_name: str
    media_type: str
    path: Path
    share: float = 0.0
    state: str = "waiting"
    message: str = ""
    stop: bool = False
    work: Future[None] | None = None
    asked: float = field(default_factory=time.monotonic)

    @property
    def size(self) -> int:
        """Bytes of its file; 0 while it is written."""
        return self.path.stat().st_size if self.state == "done" and self.path.exists() else 0


def safe_name(name: str) -> str:
    """A plate's name as that of a file, without an ending."""
    return "".join(c if c.isalnum() or c in " -_." else "-" for c in name).strip(" .") or "plate"


@dataclass
class Exports:
    """The exports of one running application, one at a time."""

    folder: Path
    most: int = MOST_BYTES
    jobs: dict[str, Job] = field(default_factory=dict)
    _pool: ThreadPoolExecutor = field(default_factory=lambda: ThreadPoolExecutor(1, "export"))

    def __post_init__(self) -> None:
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            for left in self.folder.iterdir():
                left.unlink()
        except OSError:  # a data folder that is only looked at can still be exported from
            self.folder = Path(mkdtemp(prefix="glyptic-exports-"))

    def start(self, workshop: Workshop, plate_id: int, output: Output) -> Job:
        """Begin an export of the plate's current state."""
        current = workshop.current(plate_id)
        chosen = FORMATS[output.format]
        number = secrets.token_hex(8)
        path = self.folder / f"{number}{chosen.suffixes[0]}"
        job = Job(number, plate_id, f"{safe_name(current.name)}{chosen.suffixes[0]}", chosen.media_type, path)
        self.jobs[number] = job
        self._make_room()
        job.work = self._pool.submit(self._run, workshop, job, current.stack, current.asset, output)
        return job

    def find(self, number: str) -> Job:
        job = self.jobs.get(number)
        if job is None:
            raise NotFound("That export is no longer known; start it again.")
        job.asked = time.monotonic()
        return job

    def _make_room(self) -> None:
        """Let finished files go, the oldest first, while they take up too much; not one that somebody waits for."""
        finished = [job for job in self.jobs.values() if job.state == "done"]
        held = sum(job.size for job in finished)
        for job in finished:
            if held > self.most and time.monotonic() - job.asked > ASKED_FOR:
                held -= job.size
                job.path.unlink(missing_ok=True)
                job.state, job.message = "failed", LET_GO

    def _run(self, workshop: Workshop, job: Job, stack: Stack, asset_hash: str, output: Output) -> None:
        def progress(share: float) -> None:
            job.share = share * SHARE_OF_BANDS
            if job.stop:
                raise Stopped

        try:
            job.state = "running"
            plan = make_plan(stack, workshop.pictures_of(stack))
            cache = cache_for(plan, workshop.store.tiles.get)
            metadata = leaving(metadata_of(workshop, asset_hash), stack.notes.words)
            wanted = Rendering(plan, cache, depth=output.depth, kept=from_cache(workshop.codes))
            write_rendering(job.path, wanted, output, metadata, progress)
            job.share, job.state = 1.0, "done"
        except Stopped:
            job.state = "stopped"
        except GlypticError as error:
            job.state, job.message = "failed", str(error)
        except OSError as error:
            job.state, job.message = (
                "failed",
                f"The file could not be written ({error.strerror}). The plate is unchanged.",
            )
        except Exception:
            job.state, job.message = (
                "failed",
                "The export stopped because of a fault in Glyptic. The plate is unchanged.",
            )
            raise
