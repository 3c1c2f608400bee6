"""What lasts: plates, revisions and objects in SQLite, pictures by content hash on disk."""

from glyptic.store.database import Store

__all__ = ["Store"]
