"""Where compiled kernels are kept: under a digest of what a kernel runs, so that an edit compiles what it touches only.

A kernel runs its own bytecode, that of every formula it names, and the constants they name, however deep. Nothing else
in a file, and no place of the file, counts: a moved checkout finds its kernels, an edited formula never serves stale
ones.
"""

from __future__ import annotations

import fcntl
import os
import pickle
import sys
import tempfile
from collections.abc import Callable, Iterator
from functools import cache
from hashlib import blake2b
from itertools import chain
from pathlib import Path
from types import CodeType, ModuleType
from typing import Any

import numpy as np
import platformdirs
from numba import __version__ as numba_version
from numba.core.caching import CacheImpl, IndexDataCacheFile, _CacheLocator

OURS = "glyptic."
LOCK = "writing"
CHECKED = 16
"""Bytes of the digest before what is kept."""


def kept_folder() -> Path:
    """Where compiled code is kept: this user's cache, or a folder of this process's own where that fails."""
    folder = platformdirs.user_cache_path("glyptic") / "kernels"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        writable = os.access(folder, os.W_OK)
    except OSError:
        writable = False
    return folder if writable else Path(tempfile.mkdtemp(prefix="glyptic-"))


KEPT = kept_folder()


def _python_of(value: object) -> Callable[..., Any] | None:
    """The Python function behind a kernel, a formula or a plain function; None for anything else."""
    function: Any = getattr(value, "py_func", value)
    return function if hasattr(function, "__code__") else None


def _told(value: object) -> Iterator[bytes]:
    """What a constant means to compiled code."""
    if isinstance(value, ModuleType | type):
        yield value.__name__.encode()
    elif isinstance(value, np.ndarray):
        yield value.dtype.str.encode() + repr(value.shape).encode() + value.tobytes()
    elif isinstance(value, tuple):
        for item in value:
            yield from _told(item)
    else:
        yield f"{type(value).__name__} {value!r}".encode()


def _read(code: CodeType, names: dict[str, object]) -> Iterator[bytes]:
    """Everything that a piece of bytecode runs."""
    yield code.co_code
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield from _read(constant, names)
        elif not isinstance(constant, str):  # docstrings and names of functions decide nothing
            yield from _told(constant)
    for name in code.co_names:
        yield name.encode()
        if name in names:
            yield from _meant(names[name])


def _meant(value: object) -> Iterator[bytes]:
    """What a value that is named means: a function of ours by what it runs in turn."""
    function = _python_of(value)
    if function is None:
        yield from _told(value)
    elif function.__module__.startswith(OURS):
        yield meaning(function).encode()


@cache
def meaning(function: Callable[..., Any]) -> str:
    """A digest of what a function runs. (None of ours runs itself.)"""
    h = blake2b(f"{sys.version} {numba_version}".encode(), digest_size=12)
    cells = [cell.cell_contents for cell in function.__closure__ or ()]
    inner = (piece for value in (*cells, *(function.__defaults__ or ())) for piece in _meant(value))
    for piece in chain(_read(function.__code__, function.__globals__), inner):
        h.update(len(piece).to_bytes(4, "little"))
        h.update(piece)
    return h.hexdigest()


class ByMeaning(_CacheLocator):
    """Numba is told to keep a kernel under the digest of what it runs."""

    def __init__(self, function: Callable[..., Any]) -> None:
        self._meaning = meaning(function)

    def get_cache_path(self) -> str:
        return str(KEPT)

    def get_source_stamp(self) -> str:
        return self._meaning

    def get_disambiguator(self) -> str:
        return self._meaning

    @classmethod
    def from_function(cls, function: Callable[..., Any], _file: str) -> ByMeaning | None:
        return cls(function) if function.__module__.startswith(OURS) else None


class CheckedCode(IndexDataCacheFile):
    """A kernel's files: written by one process at a time (two that compile the same kernel for other types would
    otherwise write over each other), and compiled again where they are not what was written."""

    def save(self, key: object, data: object) -> None:
        with (KEPT / LOCK).open("w") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            try:
                super().save(key, data)  # type: ignore[no-untyped-call]
            except Exception:  # a damaged index; what it named is compiled again
                self.flush()  # type: ignore[no-untyped-call]
                super().save(key, data)  # type: ignore[no-untyped-call]

    def load(self, key: object) -> object:
        try:
            return super().load(key)  # type: ignore[no-untyped-call]
        except Exception:  # whatever damaged pickles say
            return None

    def _save_data(self, name: str, data: object) -> None:
        plain = self._dump(data)  # type: ignore[no-untyped-call]
        with self._open_for_write(self._data_path(name)) as stream:  # type: ignore[no-untyped-call]
            stream.write(blake2b(plain, digest_size=CHECKED).digest() + plain)

    def _load_data(self, name: str) -> object:
        content = Path(self._data_path(name)).read_bytes()  # type: ignore[no-untyped-call]
        if blake2b(content[CHECKED:], digest_size=CHECKED).digest() != content[:CHECKED]:
            raise ValueError(name)
        return pickle.loads(content[CHECKED:])  # noqa: S301  written here, by this user


locators: list[Any] = CacheImpl._locator_classes
locators.insert(0, ByMeaning)


def keep_by_meaning(dispatcher: Any) -> Any:
    """Have a compiled function kept; returns it."""
    dispatcher.enable_caching()
    dispatcher._cache._cache_file.__class__ = CheckedCode
    return dispatcher
