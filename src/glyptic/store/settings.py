"""Settings of a data folder: declared here, kept in a small file, shown by the settings page."""

from __future__ import annotations

import json
from pathlib import Path

from glyptic.base.errors import DocumentError, Fault
from glyptic.formats.writing import write_whole
from glyptic.params import Schema, Text, Values, Whole
from glyptic.store.faults import told

SETTINGS = Schema(
    {
        "backups": Whole(
            label="Backups kept", default=14, low=0, high=365, unit="days",
            help="A copy of the database is made every day, and kept for so many days. 0 for none.",
        ),
        "bin_days": Whole(
            label="Bin emptied after", default=30, low=1, high=3650, unit="days",
            help="Removed plates can be put back for so long; then they and what only they used go for good.",
        ),
        "idle_days": Whole(
            label="Decoded pictures kept", default=60, low=1, high=3650, unit="days",
            help="Pictures nobody looked at for so long are decoded again when they are; that takes a second.",
        ),
        "cluster": Text(
            label="Cluster for runs", longest=200, default="", blank=True,
            help="The address of a Dask scheduler, such as tcp://10.0.0.5:8786, whose workers see this data folder.",
        ),
    }
)  # fmt: skip


class KeptSettings:
    """Settings of one data folder, of a schema; what is missing or damaged is at its default."""

    def __init__(self, path: Path, schema: Schema = SETTINGS) -> None:
        self._path = path
        self._schema = schema

    def read(self) -> Values:
        try:
            plain = json.loads(self._path.read_text())
        except (OSError, ValueError, RecursionError):
            plain = {}
        found = self._schema.parse(plain, "settings", [])
        return found if found is not None else self._schema.defaults

    def write(self, plain: dict[str, object]) -> Values:
        """Keep settings; raises DocumentError with every fault."""
        faults: list[Fault] = []
        values = self._schema.parse(plain, "", faults)
        if values is None:
            raise DocumentError(faults)
        with told():
            write_whole(self._path, json.dumps(self._schema.plain(values), indent=1).encode())
        return values
