"""What an edit is: a name, declared arguments, and a pure function."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from glyptic.base.errors import DocumentError, Fault
from glyptic.document.tree import layer_of
from glyptic.document.values import Layer, Stack
from glyptic.document.vocabulary import Vocabulary
from glyptic.params import REQUIRED, Param, Schema, Text, Values
from glyptic.params.declared import describe
from glyptic.params.geometry import number_list


@dataclass(frozen=True)
class Edited:
    """The new document, what was done in words, and the layer to work on next (None: as before)."""

    stack: Stack
    sentence: str
    choose: str | None = None


@dataclass(frozen=True)
class Edit:
    """An edit by name. `apply` raises DocumentError or NotFound and never changes its input."""

    name: str
    schema: Schema
    apply: Callable[[Stack, Values, Vocabulary], Edited]


@dataclass(frozen=True, kw_only=True)
class Unchecked(Param):
    """Plain data that the edit itself parses, by the declaration it is meant for."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> object:
        return raw


@dataclass(frozen=True, kw_only=True)
class Ids(Param):
    """A list of layer ids, one or more."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[str, ...] | None:
        if not isinstance(raw, list | tuple) or not raw or not all(isinstance(i, str) for i in raw):
            faults.append(Fault(at, f"must be a list of layer ids, not {describe(raw)}"))
            return None
        return tuple(raw)


@dataclass(frozen=True, kw_only=True)
class Numbers(Param):
    """A list of so many numbers."""

    count: int = 1

    def parse(self, raw: object, at: str, faults: list[Fault]) -> tuple[float, ...] | None:
        return number_list(raw, self.count, f"{self.count} numbers", at, faults)


@dataclass(frozen=True, kw_only=True)
class Index(Param):
    """A place in a list, from 0; null is allowed where there is a default."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> int | None:
        if raw is None and not self.required:
            return None
        if isinstance(raw, bool) or not isinstance(raw, int) or raw < 0:
            faults.append(Fault(at, f"must be a place in the list, not {describe(raw)}"))
            return None
        return raw


@dataclass(frozen=True, kw_only=True)
class LayerId(Text):
    """A layer's id; null is allowed where there is a default."""

    def parse(self, raw: object, at: str, faults: list[Fault]) -> str | None:
        if raw is None and not self.required:
            return None
        return super().parse(raw, at, faults)


def arguments(**params: Param) -> Schema:
    return Schema(params)


def refuse(field: str, message: str) -> DocumentError:
    return DocumentError([Fault(field, message)])


def unlocked(stack: Stack, layer_id: str) -> Layer:
    """The layer, unless it is locked."""
    layer = layer_of(stack, layer_id)
    if layer.locked:
        raise refuse(layer.name, "is locked; nothing was changed. Unlock it first")
    return layer


def quoted(layer: Layer) -> str:
    return f"‘{layer.name}’"


def set_in(plain: Any, path: list[str], value: Any) -> Any:
    """Plain data with the value at a path replaced; objects on the way are made."""
    if not path:
        return value
    inner = dict(plain) if isinstance(plain, dict) else {}
    inner[path[0]] = set_in(inner.get(path[0]), path[1:], value)
    return inner


__all__ = ["REQUIRED", "Edit", "Edited", "Ids", "Index", "LayerId", "Unchecked", "arguments"]
