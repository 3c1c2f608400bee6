"""How kernels are compiled: `kernel` for loops over pixels, `formula` for the scalar functions inside them.

Kernels release the interpreter's lock, and what was compiled is kept on disk in a folder named by a digest of
the sources: an edited kernel, also one in another file, is never served stale.
"""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from hashlib import blake2b
from pathlib import Path
from typing import Any

import platformdirs
from llvmlite import binding
from numpy import float32
from numpy.typing import NDArray


@contextmanager
def _as_if_missing(module: str) -> Iterator[None]:
    """While this lasts, importing a module fails, unless it is there already."""
    if module in sys.modules:
        yield
        return
    sys.modules[module] = None  # type: ignore[assignment]
    try:
        yield
    finally:
        del sys.modules[module]


with _as_if_missing("scipy"):
    # Numba looks for SciPy's matrix products when it wakes up: a third of a second for what no kernel here needs.
    import numba
    import numba.np.arraymath

Plane = NDArray[float32]
"""(height, width) float32."""
Row = NDArray[float32]
"""(width,) float32."""
Planes = NDArray[float32]
"""(channels, height, width) float32."""

ROOMS_WITH_KERNELS = ("formats", "pixels", "blend", "adjust", "brush", "masks", "analysis")


def source_digest() -> str:
    """A digest of the sources of every room that holds kernels, in the order of their names."""
    package = Path(__file__).parents[1]
    h = blake2b(digest_size=8)
    for path in sorted(path for room in ROOMS_WITH_KERNELS for path in (package / room).rglob("*.py")):
        h.update(path.relative_to(package).as_posix().encode())
        h.update(path.read_bytes())
    return h.hexdigest()


def kept_folder() -> Path:
    """Where compiled code is kept: this user's cache, or a folder of this process's own where that fails."""
    name = f"kernels-{source_digest()}"
    folder = platformdirs.user_cache_path("glyptic") / name
    try:
        folder.mkdir(parents=True, exist_ok=True)
        writable = os.access(folder, os.W_OK)
    except OSError:
        writable = False
    return folder if writable else Path(tempfile.mkdtemp(prefix="glyptic-"))


def _wide_registers() -> dict[str, str]:
    """Processors with 512-bit registers are told to use them, which LLVM by itself avoids: 30 to 50 % faster here."""
    features = binding.get_host_cpu_features()
    if not features.get("avx512f"):
        return {}
    return {"CPU_NAME": binding.get_host_cpu_name(), "CPU_FEATURES": f"{features.flatten()},-prefer-256-bit"}


def _here() -> str:
    """Where this package lies and what it runs on: what Numba, too, tells compiled code apart by."""
    place = f"{Path(__file__).parent} {binding.get_host_cpu_name()} {binding.get_host_cpu_features().flatten()}"
    return blake2b(place.encode(), digest_size=8).hexdigest()


KEPT = kept_folder()
WHOLE = KEPT / f"whole-{_here()}"
"""A file that is there once every kernel has been compiled, here and for this processor."""

for _name, _value in {"CACHE_DIR": str(KEPT), **_wide_registers()}.items():
    setattr(numba.config, _name, _value)  # read by numba when a kernel is made


ALLOWED = {"contract", "nsz", "arcp"}
"""What the compiler may do to float arithmetic: fuse a product and a sum, ignore the sign of zero, multiply by a
reciprocal. Never reorder a sum, and never assume that a value is finite."""


def kernel(function: Callable[..., Any]) -> Any:
    """Compile a loop over pixels: no interpreter lock, kept on disk, no reordering of sums."""
    return numba.njit(nogil=True, cache=True, fastmath=ALLOWED, error_model="numpy")(function)


def formula(function: Callable[..., Any]) -> Any:
    """Compile a scalar function that kernels call, always as part of them: a call in a loop would keep it from
    becoming vector code (see `vector`)."""
    options: dict[str, Any] = {
        "nogil": True,
        "cache": True,
        "fastmath": ALLOWED,
        "error_model": "numpy",
        "forceinline": True,
    }
    return numba.njit(**options)(function)


def template(function: Callable[..., Any]) -> Any:
    """A loop that takes formulas as arguments. Kernels call it with formulas they name, and it is compiled as part of
    them, once for each."""
    return numba.njit(nogil=True, fastmath=ALLOWED, error_model="numpy")(function)
