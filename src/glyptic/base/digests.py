"""Content keys: short digests of plain values."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from hashlib import blake2b
from typing import Any

KEY_BYTES = 16


def digest(*parts: bytes | str | int | float | bool | None) -> bytes:
    """A 16-byte BLAKE2b digest of the parts, each framed so that ("ab", "c") differs from ("a", "bc")."""
    framed: list[bytes] = []
    for part in parts:
        raw = part if isinstance(part, bytes) else repr(part).encode()
        framed += (len(raw).to_bytes(4, "little"), raw)
    return blake2b(b"".join(framed), digest_size=KEY_BYTES).digest()


def canonical_json(plain: Mapping[str, Any] | Sequence[Any]) -> str:
    """JSON with sorted keys and no spaces: equal values give equal text."""
    return json.dumps(plain, sort_keys=True, separators=(",", ":"), ensure_ascii=False, allow_nan=False)


def digest_plain(plain: Mapping[str, Any] | Sequence[Any]) -> bytes:
    """The digest of a plain value (dicts, lists, strings, numbers, booleans, None)."""
    return digest(canonical_json(plain))
