"""Older versions of the stack file brought up to date before they are read."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from glyptic.document.values import VERSION

UPGRADES: dict[int, Callable[[Mapping[str, Any]], Mapping[str, Any]]] = {}
"""From a version to the next: UPGRADES[1] turns a version 1 document into version 2."""


def upgraded(plain: Mapping[str, Any]) -> Mapping[str, Any]:
    """The document in the current version."""
    for version in range(plain["version"], VERSION):
        plain = {**UPGRADES[version](plain), "version": version + 1}
    return plain
