"""The tables. Times are UTC."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import ForeignKey, LargeBinary, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class Table(DeclarativeBase):
    """The root of every table."""


class Asset(Table):
    """A picture file by the SHA-256 of its bytes; the bytes lie on disk."""

    __tablename__ = "asset"

    hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str]
    width: Mapped[int]
    height: Mapped[int]
    depth: Mapped[int]
    has_alpha: Mapped[bool]
    exif: Mapped[bytes] = mapped_column(LargeBinary)
    notes: Mapped[str]
    taken_at: Mapped[datetime | None]
    """When the camera took it, by its own clock; None where the file does not say."""
    space: Mapped[str] = mapped_column(default="srgb")
    """The working space it opens in."""
    profile: Mapped[str] = mapped_column(default="")
    """What its values were taken by, by name."""
    assumed: Mapped[bool] = mapped_column(default=False)
    """Whether nothing in the file said so."""
    pages: Mapped[int] = mapped_column(default=1)
    format: Mapped[str] = mapped_column(default="")
    xmp: Mapped[bytes] = mapped_column(LargeBinary, default=b"")
    iptc: Mapped[bytes] = mapped_column(LargeBinary, default=b"")


class Object(Table):
    """An immutable piece of a document (a stack, a layer, a run of strokes, a stroke) by its digest."""

    __tablename__ = "object"

    hash: Mapped[bytes] = mapped_column(LargeBinary(16), primary_key=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)


class Plate(Table):
    """A picture with its stack and its whole history. `removed_at` set: in the bin, and recoverable."""

    __tablename__ = "plate"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    asset_hash: Mapped[str] = mapped_column(ForeignKey("asset.hash"))
    head_id: Mapped[int | None]
    chosen: Mapped[str] = mapped_column(default="")
    created_at: Mapped[datetime] = mapped_column(default=now)
    worked_at: Mapped[datetime] = mapped_column(default=now)
    removed_at: Mapped[datetime | None]
    shoot_id: Mapped[int | None] = mapped_column(ForeignKey("shoot.id"), index=True)
    note: Mapped[str] = mapped_column(default="")
    marks: Mapped[int] = mapped_column(default=0)
    """Which of the marks it carries, a bit for each."""


class Shoot(Table):
    """Plates that belong together on the shelf."""

    __tablename__ = "shoot"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    at: Mapped[datetime] = mapped_column(default=now)


class KeptKit(Table):
    """A kit: layers kept for other pictures, as its file has them; pictures by their hashes. `removed_at` set: in the
    bin, and recoverable."""

    __tablename__ = "kit"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    content: Mapped[str]
    at: Mapped[datetime] = mapped_column(default=now)
    removed_at: Mapped[datetime | None]


class Proof(Table):
    """A state of a plate under a name, kept for ever; it stands by itself, whatever becomes of the log."""

    __tablename__ = "proof"

    id: Mapped[int] = mapped_column(primary_key=True)
    plate_id: Mapped[int] = mapped_column(ForeignKey("plate.id"), index=True)
    root: Mapped[bytes] = mapped_column(LargeBinary(16))
    name: Mapped[str]
    note: Mapped[str] = mapped_column(default="")
    token: Mapped[str | None] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(default=now)


class Run(Table):
    """Work on many plates at once. settings: plain data as JSON; state: 'going', 'stopped' or 'ended'."""

    __tablename__ = "run"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    title: Mapped[str]
    settings: Mapped[str]
    state: Mapped[str] = mapped_column(default="going")
    at: Mapped[datetime] = mapped_column(default=now)
    ended_at: Mapped[datetime | None]


class RunItem(Table):
    """One thing of a run: a plate. state: 'waiting', 'done', 'failed' or 'undone'; says: its sentence; made: what came
    of it, as JSON; seconds: what it took."""

    __tablename__ = "run_item"

    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id"), index=True)
    plate_id: Mapped[int]
    plain: Mapped[str] = mapped_column(default="{}")
    state: Mapped[str] = mapped_column(default="waiting")
    says: Mapped[str] = mapped_column(default="")
    made: Mapped[str] = mapped_column(default="{}")
    seconds: Mapped[float] = mapped_column(default=0.0)


class Revision(Table):
    """A state of a plate: the document's root, what was done to reach it, and where redo leads. `token`: what the page
    named the stroke that led to it, so that one sent twice is kept once."""

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(primary_key=True)
    plate_id: Mapped[int] = mapped_column(ForeignKey("plate.id"), index=True)
    parent_id: Mapped[int | None]
    next_id: Mapped[int | None]
    root: Mapped[bytes] = mapped_column(LargeBinary(16))
    chosen: Mapped[str] = mapped_column(default="")
    sentence: Mapped[str]
    token: Mapped[str | None] = mapped_column(String(64))
    at: Mapped[datetime] = mapped_column(default=now)
