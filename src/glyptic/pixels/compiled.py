"""How kernels are compiled: `kernel` for loops over pixels, `formula` for the scalar functions inside them.

Kernels release the interpreter's lock, and what was compiled is kept on disk (see `kept_code`).
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

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

    from glyptic.pixels.kept_code import keep_by_meaning, meaning

Plane = NDArray[float32]
"""(height, width) float32."""
Row = NDArray[float32]
"""(width,) float32."""
Planes = NDArray[float32]
"""(channels, height, width) float32."""


def _wide_registers() -> dict[str, str]:
    """Processors with 512-bit registers are told to use them, which LLVM by itself avoids: 30 to 50 % faster here."""
    features = binding.get_host_cpu_features()
    if not features.get("avx512f"):
        return {}
    return {"CPU_NAME": binding.get_host_cpu_name(), "CPU_FEATURES": f"{features.flatten()},-prefer-256-bit"}


for _name, _value in _wide_registers().items():
    setattr(numba.config, _name, _value)  # read by numba when a kernel is made


ALLOWED = {"contract", "nsz", "arcp"}
"""What the compiler may do to float arithmetic: fuse a product and a sum, ignore the sign of zero, multiply by a
reciprocal. Never reorder a sum, and never assume that a value is finite."""


MADE: dict[str, Any] = {}
"""Every kernel there is, by the digest of what it runs."""


def kernel(function: Callable[..., Any]) -> Any:
    """Compile a loop over pixels: no interpreter lock, kept on disk, no reordering of sums."""
    made = keep_by_meaning(numba.njit(nogil=True, fastmath=ALLOWED, error_model="numpy")(function))
    MADE[meaning(function)] = made
    return made


def formula(function: Callable[..., Any]) -> Any:
    """Compile a scalar function that kernels call, always as part of them: a call in a loop would keep it from
    becoming vector code (see `vector`)."""
    options: dict[str, Any] = {"nogil": True, "fastmath": ALLOWED, "error_model": "numpy", "forceinline": True}
    return keep_by_meaning(numba.njit(**options)(function))


def template(function: Callable[..., Any]) -> Any:
    """A loop that takes formulas as arguments. Kernels call it with formulas they name, and it is compiled as part of
    them, once for each."""
    return numba.njit(nogil=True, fastmath=ALLOWED, error_model="numpy")(function)
