"""More than one machine: work handed to a scheduler of Dask's distributed, which gives each job to a worker and begins
it again on another where one dies (docs/clusters.md). Needs the package `distributed`: pip install glyptic[cluster]."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from pathlib import Path
from typing import Any, TypeVar

from glyptic import __version__
from glyptic.base.errors import ClusterError
from glyptic.base.meaning import of_pixels

J = TypeVar("J")
O = TypeVar("O")
PATIENCE = 4
"""Seconds within which a scheduler must answer."""
RETRIES = 2
NOT_THERE = "There is no scheduler at {address} (it did not answer within {seconds} seconds). Nothing was begun."
NOT_INSTALLED = (
    "Work on a cluster needs the package distributed: pip install 'glyptic[cluster]'. Nothing was begun; without "
    "--cluster this machine does the work."
)
NO_WORKERS = "The scheduler at {address} has no workers. Start some with: dask worker {address}. Nothing was begun."
OTHERS = (
    "The workers at {which} run another Glyptic than this one ({version}, {digest}), and would make other pixels. "
    "Nothing was begun; install the same version everywhere."
)
BROKEN = (
    "The workers at {address} cannot be asked what they run ({error}). Nothing was begun; is Glyptic installed there?"
)


def what_runs() -> tuple[str, str]:
    """The version of Glyptic that runs here, and the digest of the code that makes pixels."""
    return __version__, of_pixels().hex()


def prepare() -> None:
    """A worker begins: one thread for its engine, for the machine is shared with the other workers."""
    from glyptic.actions.runs.runners import ready  # noqa: PLC0415

    ready(1, low=False)


def _preparing(dask: Any) -> Any:
    """What every worker does when it begins, those too that begin later."""

    class Preparing(dask.WorkerPlugin):  # type: ignore[misc, unused-ignore]
        name = "glyptic"

        def setup(self, worker: Any) -> None:
            prepare()

    return Preparing()


class Cluster:
    """The workers of a scheduler. Raises ClusterError, within seconds, where they cannot be used."""

    def __init__(self, address: str) -> None:
        try:
            import distributed  # noqa: PLC0415  (only who has a cluster needs it)
        except ImportError as error:
            raise ClusterError(NOT_INSTALLED) from error
        dask: Any = distributed
        self.lost: tuple[type[BaseException], ...] = (dask.KilledWorker, CancelledError, asyncio.CancelledError)
        for name in ("distributed", "distributed.client", "distributed.core"):
            logging.getLogger(name).setLevel(logging.CRITICAL)
        try:
            self._client = dask.Client(address, timeout=PATIENCE, set_as_default=False)
        except (OSError, TimeoutError, ValueError) as error:
            raise ClusterError(NOT_THERE.format(address=address, seconds=PATIENCE)) from error
        try:
            self._check(address)
            self._client.register_plugin(_preparing(dask))
        except BaseException:
            self.close()
            raise
        self.width: int = sum(self._client.nthreads().values())
        self._executor = self._client.get_executor(retries=RETRIES, pure=False)

    def _check(self, address: str) -> None:
        if not self._client.nthreads():
            raise ClusterError(NO_WORKERS.format(address=address))
        try:
            told: dict[str, tuple[str, str]] = self._client.run(what_runs)
        except Exception as error:
            raise ClusterError(BROKEN.format(address=address, error=error)) from error
        version, digest = what_runs()
        others = [worker for worker, found in told.items() if tuple(found) != (version, digest)]
        if others:
            raise ClusterError(OTHERS.format(which=", ".join(others[:3]), version=version, digest=digest))

    def sees(self, path: Path) -> bool:
        """Whether every worker finds a path where this machine has it."""
        return all(self._client.run(there, str(path)).values())

    def submit(self, work: Callable[[J], O], job: J) -> Future[O]:
        """Hand a job to the scheduler."""
        promised: Future[O] = self._executor.submit(work, job)
        return promised

    def revive(self) -> None:
        """The scheduler sees to its workers."""

    def close(self) -> None:
        """Leave the scheduler; what was not begun is given up."""
        self._client.close(timeout=PATIENCE)


def there(path: str) -> bool:
    """Whether a path is there."""
    return Path(path).exists()
