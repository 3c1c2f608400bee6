"""Mark and sweep: what no plate's log can reach any more is let go, and nothing else."""

from __future__ import annotations

import json
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from glyptic.store.objects import fetch, layers_of
from glyptic.store.tables import Asset, KeptKit, Object, Plate, Proof, Revision, now

if TYPE_CHECKING:
    from glyptic.store.database import Store

GRACE = 86_400
"""Seconds that a picture file is left alone after it was kept: what refers to it may still be on its way."""
BATCH = 500


@dataclass
class Reached:
    """Everything that documents refer to: objects by their digests, assets by their hashes."""

    objects: set[bytes] = field(default_factory=set)
    assets: set[str] = field(default_factory=set)

    def mark(self, session: Session, roots: Iterable[bytes]) -> None:
        """Follow documents down to their strokes, each piece once."""
        layers = self._fresh(key for content in self._read(session, roots) for key in layers_of(content))
        while layers:
            plain = [json.loads(content) for content in self._read(session, layers)]
            self.assets.update(source for layer in plain for source in _sources(layer))
            paintings = [painting for layer in plain for painting in _paintings(layer)]
            runs = self._read(session, self._fresh(run for painting in paintings for run in painting["runs"]))
            self.objects.update(bytes.fromhex(key) for run in runs for key in json.loads(run))
            self.objects.update(bytes.fromhex(key) for painting in paintings for key in painting["tail"])
            layers = self._fresh(child for layer in plain for child in layer.get("layers", ()))

    def _fresh(self, keys: Iterable[str]) -> list[bytes]:
        return [key for key in dict.fromkeys(map(bytes.fromhex, keys)) if key not in self.objects]

    def _read(self, session: Session, keys: Iterable[bytes]) -> Iterator[bytes]:
        wanted = [key for key in dict.fromkeys(keys) if key not in self.objects]
        self.objects.update(wanted)
        for start in range(0, len(wanted), BATCH):
            yield from fetch(session, wanted[start : start + BATCH]).values()


def _paintings(layer: dict[str, Any]) -> Iterator[dict[str, Any]]:
    kept = [layer, *(layer.get("mask") or {}).get("parts", ())]
    return (one["strokes"] for one in kept if isinstance(one.get("strokes"), dict))


def _sources_of_kit(content: str) -> Iterator[str]:
    """What a kit refers to, with what is in its groups."""
    plain = json.loads(content)
    pending = [*plain.get("layers", ()), *plain.get("frame_layers", ())]
    while pending:
        layer = pending.pop()
        yield from _sources(layer)
        pending.extend(layer.get("layers", ()))


def _sources(layer: dict[str, Any]) -> Iterator[str]:
    kept = [layer, *(layer.get("mask") or {}).get("parts", ())]
    return (one["source"] for one in kept if "source" in one)


def remove_for_good(session: Session, plates: list[int]) -> None:
    """Remove plates with their logs and their proofs; what nothing else refers to is swept later."""
    for start in range(0, len(plates), BATCH):
        part = plates[start : start + BATCH]
        for table in (Revision, Proof):
            session.execute(delete(table).where(table.plate_id.in_(part)))
        session.execute(delete(Plate).where(Plate.id.in_(part)))


def empty_bin(store: Store, days: float) -> int:
    """Remove plates, and kits, for good that have been in the bin for so many days; returns how many plates."""
    with store.writing() as session:
        old = list(session.scalars(select(Plate.id).where(Plate.removed_at < _ago(days))))
        remove_for_good(session, old)
        session.execute(delete(KeptKit).where(KeptKit.removed_at < _ago(days)))
    return len(old)


def _ago(days: float) -> datetime:
    return now() - timedelta(days=days)


@dataclass(frozen=True)
class Swept:
    """What was let go: objects and picture files."""

    objects: int
    assets: int


def sweep(store: Store, grace: float = GRACE) -> Swept:
    """Let go of every object and every picture file that no state of any plate's log refers to, no proof and
    no kit.

    Most is marked while others go on writing; what they wrote meanwhile is marked when nobody may.
    """
    reached = Reached()
    with store.session() as session:
        newest = session.scalar(select(func.max(Revision.id))) or 0
        reached.mark(session, session.scalars(select(Revision.root).where(Revision.id <= newest).distinct()))
    with store.assets.lock, store.objects.being_swept(), store.writing() as session:
        reached.mark(session, session.scalars(select(Revision.root).where(Revision.id > newest).distinct()))
        reached.mark(session, session.scalars(select(Proof.root).distinct()))
        reached.assets.update(session.scalars(select(Plate.asset_hash)))
        for content in session.scalars(select(KeptKit.content)):
            reached.assets.update(_sources_of_kit(content))
        gone = [key for key in session.scalars(select(Object.hash)) if key not in reached.objects]
        for start in range(0, len(gone), BATCH):
            session.execute(delete(Object).where(Object.hash.in_(gone[start : start + BATCH])))
        files = _unreached_files(store, reached.assets, grace)
        for start in range(0, len(files), BATCH):
            session.execute(delete(Asset).where(Asset.hash.in_(files[start : start + BATCH])))
    for asset in files:
        store.assets.drop(asset)
    return Swept(len(gone), len(files))


def _unreached_files(store: Store, reached: set[str], grace: float) -> list[str]:
    before = time.time() - grace
    return [path.name for path in store.assets if path.name not in reached and path.stat().st_mtime <= before]
