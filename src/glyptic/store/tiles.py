"""Painted tiles on disk: what strokes cost to lay again is kept when the server stops.

A database of its own beside the plates', because everything in it can be made again: it is written without waiting for
the disk, and thrown away when it cannot be read.
"""

from __future__ import annotations

import logging
from pathlib import Path
from threading import Lock
from typing import Any

import imagecodecs
import numpy as np
from isal import isal_zlib
from numpy.typing import NDArray
from sqlalchemy import (
    Column,
    Engine,
    Integer,
    LargeBinary,
    MetaData,
    Table,
    create_engine,
    delete,
    event,
    insert,
    select,
)
from sqlalchemy.exc import SQLAlchemyError

Tile = NDArray[np.float32]

DEFAULT_BUDGET = 4 * 2**30
FAST_LEVEL = 1
BATCH = 64
CHECKED = 4
"""Bytes of a checksum."""
_FACTS = MetaData()
_TILES = Table(
    "tile", _FACTS,
    Column("number", Integer, primary_key=True),
    Column("key", LargeBinary(16), nullable=False, unique=True),
    Column("bytes", Integer, nullable=False),
    Column("content", LargeBinary, nullable=False),
)  # fmt: skip


def packed(tile: Tile) -> bytes:
    """A tile () or (1, h, w) of float32 without loss: a checksum (CRC-32), the shape, then the floating-point predictor
    and Zstandard."""
    shape = np.array([tile.ndim, *tile.shape[-2:]], np.uint16).tobytes().ljust(6, b"\0")
    content = bytes(imagecodecs.floatpred_encode(np.ascontiguousarray(tile[0]))) if tile.ndim else tile.tobytes()
    kept = shape + bytes(imagecodecs.zstd_encode(content, level=FAST_LEVEL))
    return isal_zlib.crc32(kept).to_bytes(CHECKED, "little") + kept


def unpacked(content: bytes) -> Tile:
    """What was packed; raises ValueError for anything else."""
    told, content = content[:CHECKED], content[CHECKED:]
    if told != isal_zlib.crc32(content).to_bytes(CHECKED, "little"):
        raise ValueError("that is not what was packed")
    ndim, *shape = np.frombuffer(content[:6], np.uint16).tolist()
    plain = np.frombuffer(imagecodecs.zstd_decode(content[6:]), np.float32)
    if not ndim:
        return plain.reshape(())
    decoded: Tile = imagecodecs.floatpred_decode(plain.reshape(shape))
    return decoded[None]


class KeptTiles:
    """Tiles by key within a budget of bytes, those put first dropped first; safe to use from several threads.

    Which keys are here is held in memory, so that asking for one that is not costs nothing. Without a path, and where
    the disk does not take them, nothing is kept: it can all be made again.
    """

    def __init__(self, path: Path | None, budget: int = DEFAULT_BUDGET) -> None:
        self.budget = budget
        self._path = path
        self._lock = Lock()
        self._sizes: dict[bytes, int] = {}
        self._bytes = 0
        self._engine: Engine | None = None
        if path is None:
            return
        try:
            self._open(path)
        except (SQLAlchemyError, OSError):
            self._start_anew(path)

    def _open(self, path: Path) -> None:
        engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 30})
        event.listen(engine, "connect", _unhurried)
        _FACTS.create_all(engine)
        with engine.connect() as connection:
            rows = connection.execute(select(_TILES.c.key, _TILES.c.bytes).order_by(_TILES.c.number))
            self._sizes = {row.key: row.bytes for row in rows}
        self._bytes = sum(self._sizes.values())
        self._engine = engine

    def _start_anew(self, path: Path) -> None:
        logging.getLogger(__name__).warning("%s could not be read and is made anew; it held copies only.", path)
        try:
            for leftover in path.parent.glob(f"{path.name}*"):
                leftover.unlink()
            self._open(path)
        except (SQLAlchemyError, OSError):
            logging.getLogger(__name__).warning("Painted tiles are not kept: %s cannot be written.", path)

    def __contains__(self, key: bytes) -> bool:
        return key in self._sizes

    def __len__(self) -> int:
        return len(self._sizes)

    @property
    def size(self) -> int:
        """What the tiles take up, packed."""
        return self._bytes

    def get(self, key: bytes) -> Tile | None:
        """The tile of a key, or None; one that cannot be read counts as not here."""
        if key not in self._sizes or self._engine is None:
            return None
        try:
            with self._engine.connect() as connection:
                content = connection.execute(select(_TILES.c.content).where(_TILES.c.key == key)).scalar()
            return None if content is None else unpacked(content)
        except (SQLAlchemyError, ValueError, RuntimeError):
            self._sizes.pop(key, None)
            return None

    def put(self, tiles: dict[bytes, Tile]) -> None:
        """Keep tiles, all of them or none; those that are here already are passed over."""
        if self._engine is None:
            return
        fresh = {key: packed(tile) for key, tile in tiles.items() if key not in self._sizes}
        rows: list[dict[str, Any]] = [
            {"key": key, "bytes": len(content), "content": content} for key, content in fresh.items()
        ]
        if not rows:
            return
        with self._lock:
            try:
                with self._engine.begin() as connection:
                    connection.execute(insert(_TILES).prefix_with("OR REPLACE"), rows)
            except SQLAlchemyError:
                return  # a disk that is full, say: they are made when they are wanted
            self._sizes.update({key: len(content) for key, content in fresh.items()})
            self._bytes += sum(len(content) for content in fresh.values())
            self._drop(self._engine, self._over_budget())

    def clear(self) -> None:
        """Forget every tile, and give the room on the disk back."""
        with self._lock:
            everything = list(self._sizes)
            self._sizes.clear()
            self._bytes = 0
            if self._engine is not None:
                self._drop(self._engine, everything)
                with self._engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
                    connection.exec_driver_sql("VACUUM")

    @staticmethod
    def _drop(engine: Engine, keys: list[bytes]) -> None:
        with engine.begin() as connection:
            for start in range(0, len(keys), BATCH):
                connection.execute(delete(_TILES).where(_TILES.c.key.in_(keys[start : start + BATCH])))

    def _over_budget(self) -> list[bytes]:
        """Keys to drop, taken off the index."""
        dropped = []
        while self._bytes > self.budget and len(self._sizes) > 1:
            oldest = next(iter(self._sizes))
            self._bytes -= self._sizes.pop(oldest)
            dropped.append(oldest)
        return dropped

    def close(self) -> None:
        if self._engine is not None:
            self._engine.dispose()


def _unhurried(connection: Any, record: object) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=OFF")
    cursor.close()
