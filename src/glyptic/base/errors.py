"""Every error Glyptic raises on purpose.

    GlypticError                a sentence for the person at the bench
    ├── DocumentError           a stack (or an edit of one) that is not valid: one or more faults
    ├── PictureError            a file that cannot become a plate
    │   └── PictureTooLarge     more pixels or bytes than the setting allows
    ├── NameTaken               something is called so already
    ├── NotFound                something named that is not there (any more)
    ├── StaleEdit               an edit made on a revision that is no longer the current one
    ├── StoreError              a data folder that cannot be used as asked
    │   ├── FolderInUse         another Glyptic is at work in it
    │   ├── UnknownVersion      it was written by a newer Glyptic, or by half a migration
    │   ├── DiskFull            there is no room to write
    │   ├── ReadOnly            nothing may be written there
    │   └── Damaged             the database, or a file kept, is not what was written
    ├── Undefined               pixels that came out as no number
    ├── Stopped                 something that was stopped before anything was kept
    ├── ClusterError            workers on other machines that cannot be used
    └── ExportError             a file that cannot be written as asked

A message says what happened; where the reader might fear a loss it says that nothing was lost, and what to do.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass


class GlypticError(Exception):
    """The root: its text is a complete sentence for a reader."""


PREDICATES = ("must", "is", "has", "cannot", "weakens", "masks")
"""How a message begins that needs what it is about before it."""


@dataclass(frozen=True)
class Fault:
    """One thing wrong with one field.

    `field` is a path as in ``layers[3].settings.points.rgb[2]``; empty for the document as a whole. `title`: what the
    page calls it; `words`: the message in the page's units, where that differs.
    """

    field: str
    message: str
    title: str = ""
    words: str = ""

    def __str__(self) -> str:
        return f"{self.field}: {self.message}" if self.field else self.message

    @property
    def said(self) -> str:
        """The fault as a clause for the person at the bench."""
        subject = self.title or self.field.rsplit(".", 1)[-1].replace("_", " ")
        if not subject or self.message.split(" ", 1)[0] not in PREDICATES:
            return self.words or self.message
        return f"{subject} {self.words or self.message}"


class DocumentError(GlypticError):
    """A stack or an edit with faults; all of them, each with its field."""

    def __init__(self, faults: Sequence[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("; ".join(map(str, self.faults)))


class PictureError(GlypticError):
    """A file that is no picture, is damaged, or is of a sort Glyptic does not read."""


class PictureTooLarge(PictureError):
    """A picture beyond the limit on pixels or bytes."""


class NameTaken(GlypticError):
    """Something is called so already; number: which."""

    def __init__(self, name: str, number: int) -> None:
        self.number = number
        super().__init__(
            f"There is a kit called ‘{name}’ already. Nothing was changed: take another name, or keep this one in its "
            "place."
        )


class NotFound(GlypticError):
    """A plate, layer, part or revision that does not exist."""


class StaleEdit(GlypticError):
    """An edit that names a revision other than the current one."""


class StoreError(GlypticError):
    """A data folder that cannot be used as asked; what is in it is as it was."""


class FolderInUse(StoreError):
    """A data folder that another running Glyptic has taken."""


class UnknownVersion(StoreError):
    """A data folder of a version this Glyptic does not know."""


class DiskFull(StoreError):
    """No room to write."""


class ReadOnly(StoreError):
    """A data folder, or a file in it, that may not be written."""


class Damaged(StoreError):
    """A database or a kept file that is not what was written."""


class Undefined(GlypticError):
    """A picture some of whose values are no numbers."""


class Stopped(GlypticError):
    """Something that was stopped by whoever asked for it, before anything was kept."""


class ClusterError(GlypticError):
    """A scheduler that does not answer, or workers that cannot be used; nothing was begun."""


class ExportError(GlypticError):
    """An output that cannot be written as asked."""
