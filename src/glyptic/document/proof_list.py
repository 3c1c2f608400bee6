"""The list of proofs beside a stack file: each is a stack file of its own, under a name."""

from __future__ import annotations

import json
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.params import Reference, Schema, Text, Values

FORMAT, VERSION = "glyptic-proofs", 1
PROOFS_FILE = "proofs.json"
"""Stands beside the stack file it belongs to."""
MOST = 1000
WORDS = {
    "name": Text(label="Name", longest=80, help="What the proof is called in the list and by `glyptic render`."),
    "note": Text(label="Note", longest=500, default="", blank=True, help="What is to be remembered about it."),
}
ENTRY = Schema(
    {
        **WORDS,
        "at": Text(label="Pulled at", longest=40, default="", blank=True, help="When, in UTC, as ISO 8601 has it."),
        "stack": Reference(label="Stack", help="Its stack file, beside the list."),
    }
)


def read_proofs(text: str | bytes) -> list[Values]:
    """The entries of a list of proofs, the oldest first; raises DocumentError with every fault."""
    try:
        plain = json.loads(text)
    except (ValueError, RecursionError):
        raise DocumentError([Fault(PROOFS_FILE, "is not JSON")]) from None
    items = plain.get("proofs") if isinstance(plain, dict) and plain.get("format") == FORMAT else None
    if not isinstance(items, list) or len(items) > MOST or plain.get("version") != VERSION:
        raise DocumentError([Fault(PROOFS_FILE, f"must be a list of at most {MOST} proofs, of version {VERSION}")])
    faults: list[Fault] = []
    found = [ENTRY.parse(item, f"proofs[{i}]", faults) for i, item in enumerate(items)]
    if faults:
        raise DocumentError(faults)
    return [one for one in found if one is not None]


def write_proofs(entries: list[dict[str, Any]]) -> str:
    return json.dumps({"format": FORMAT, "version": VERSION, "proofs": entries}, ensure_ascii=False, indent=1) + "\n"


def named(entries: list[Values], name: str) -> Values:
    """The newest proof of a name; raises DocumentError where there is none."""
    for one in reversed(entries):
        if one["name"] == name:
            return one
    known = ", ".join(repr(one["name"]) for one in entries[-10:]) or "none"
    raise DocumentError([Fault("proof", f"{name[:80]!r} is no proof of this stack; there are: {known}")])
