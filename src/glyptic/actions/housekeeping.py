"""Keeping house: backups, the bin, what nothing refers to any more; what the data folder holds, and freeing it."""

from __future__ import annotations

import logging
import shutil
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from threading import Event, Thread

from sqlalchemy import text

from glyptic.actions.workshop import Workshop
from glyptic.base.errors import GlypticError
from glyptic.pixels.kept_code import KEPT
from glyptic.store.sweeping import Swept, empty_bin, sweep

FIRST, AGAIN = 60.0, 3600.0
"""Seconds to the first round, for whoever starts Glyptic wants to work, and from one round to the next."""
WORTH_A_VACUUM = 0.25
"""The share of a database that is empty from which its room is given back."""


def keep_house(workshop: Workshop) -> Swept:
    """One round: today's backup, the bin, what nothing refers to, pictures nobody looked at."""
    store = workshop.store
    settings = store.settings.read()
    store.backups.daily(int(settings["backups"]))
    empty_bin(store, settings["bin_days"])
    swept = sweep(store)
    store.assets.levels.drop_idle(settings["idle_days"])
    if _share_empty(workshop) > WORTH_A_VACUUM:
        store.vacuum()
    return swept


def _share_empty(workshop: Workshop) -> float:
    with workshop.store.session() as session:
        free, pages = (
            session.execute(text(f"PRAGMA {what}")).scalar() or 0 for what in ("freelist_count", "page_count")
        )
    return free / max(pages, 1)


@dataclass
class Housekeeper:
    """Keeps house in the background, whenever `rest` returns: nobody is at work then."""

    workshop: Workshop
    rest: Callable[[], object]
    stopped: Event = field(default_factory=Event)

    def start(self) -> None:
        Thread(target=self._run, name="housekeeping", daemon=True).start()

    def _run(self) -> None:
        self.stopped.wait(FIRST)
        while not self.stopped.is_set():
            self.rest()
            try:
                keep_house(self.workshop)
            except GlypticError as error:
                logging.getLogger(__name__).warning("%s", error)
            except Exception:
                logging.getLogger(__name__).exception("Keeping house failed; it is tried again later.")
            self.stopped.wait(AGAIN)


@dataclass(frozen=True)
class Holding:
    """Something the data folder holds: its name, what it is, its bytes, and whether it can be made again."""

    title: str
    help: str
    size: int
    again: bool


def _size(*paths: Path) -> int:
    files = (file for path in paths for file in (path.rglob("*") if path.is_dir() else [path]))
    return sum(file.stat().st_size for file in files if file.is_file())


PLACES = (
    ("Pictures", "The files as they came, and grey pictures found for masks.", False, ("assets",)),
    ("Plates", "Every layer, stroke and step of every plate.", False, ("glyptic.sqlite", "glyptic.sqlite-wal")),
    ("Backups", "Copies of the database, kept by age.", False, ("backups",)),
    ("Decoded pictures", "Made from the pictures when they are looked at.", True, ("levels",)),
    ("Painted tiles", "Made from the strokes.", True, ("tiles.sqlite", "tiles.sqlite-wal")),
    ("Exports", "Files written and not fetched yet.", True, ("exports",)),
)  # fmt: skip


def holdings(workshop: Workshop) -> list[Holding]:
    """What the data folder holds, and compiled code, which lies elsewhere."""
    folder = workshop.store.folder
    found = [
        Holding(title, says, _size(*(folder / name for name in names)), again) for title, says, again, names in PLACES
    ]
    return [*found, Holding("Compiled code", f"Kept for all data folders, in {KEPT}.", _size(KEPT), False)]


def free_again(workshop: Workshop) -> int:
    """Let go of everything that can be made again; returns the bytes."""
    before = sum(one.size for one in holdings(workshop) if one.again)
    store = workshop.store
    for asset in list(store.assets.levels):
        store.assets.levels.drop(asset)
    store.tiles.clear()
    for cache in (workshop.pictures, workshop.plans, workshop.admitted):
        cache.clear()
    shutil.rmtree(store.folder / "templates", ignore_errors=True)
    return before - sum(one.size for one in holdings(workshop) if one.again)


def empty_bin_now(workshop: Workshop) -> tuple[int, Swept]:
    """Empty the bin whatever its age, and let go of what only its plates used."""
    plates = empty_bin(workshop.store, days=0)
    swept = sweep(workshop.store)
    workshop.store.vacuum()
    return plates, swept
