"""Registries: members of a family, found by loading every module of its package."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Iterator, Mapping
from types import ModuleType
from typing import Generic, Protocol, TypeVar


class Named(Protocol):
    """Something that has a name."""

    @property
    def name(self) -> str: ...


T = TypeVar("T", bound=Named)


class Registry(Mapping[str, T], Generic[T]):
    """Members by name, in the order of their modules.

    Each module of the package may define one or more objects of `family`; nothing else needs an edit when a
    member is added.
    """

    def __init__(self, package: ModuleType | str, family: type[T]) -> None:
        self._package = package if isinstance(package, str) else package.__name__
        self._family = family
        self._members: dict[str, T] | None = None

    def _load(self) -> dict[str, T]:
        if self._members is None:
            package = importlib.import_module(self._package)
            members: dict[str, T] = {}
            for info in sorted(pkgutil.iter_modules(package.__path__), key=lambda m: m.name):
                module = importlib.import_module(f"{self._package}.{info.name}")
                for value in vars(module).values():
                    if isinstance(value, self._family):
                        members[value.name] = value
            self._members = members
        return self._members

    def __getitem__(self, name: str) -> T:
        return self._load()[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._load())

    def __len__(self) -> int:
        return len(self._load())
