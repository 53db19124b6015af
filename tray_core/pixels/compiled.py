"""Python compiled to machine code by Numba: what the line does to every pixel, where no library does it as fast."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar, cast

import numba
from llvmlite import binding
from numba import types
from numba.core.registry import cpu_target

P = ParamSpec("P")
R = TypeVar("R")

_features = binding.get_host_cpu_features()
if _features.get("avx512bw"):
    # Vectors of 512 bits, half of which is what compilers prefer: a seventh of the time, and the same results.
    wide = f"{_features.flatten()},-prefer-256-bit"
    vars(numba.config).update(CPU_NAME=binding.get_host_cpu_name(), CPU_FEATURES=wide)

# Numba looks for SciPy's linear algebra where it is installed, and nothing here calls it: a fifth of a worker's start.
_absent = "scipy" not in sys.modules
if _absent:
    sys.modules["scipy"] = None  # type: ignore[assignment]  # the import system's own mark for what is not there
try:
    cpu_target.typing_context.refresh()
    cpu_target.target_context.refresh()
finally:
    if _absent:
        del sys.modules["scipy"]

# Neither here nor there "fastmath": sums keep their order, so that the same input gives the same bytes everywhere.


def read(kind: Any, dimensions: int = 1) -> Any:
    """The type of an array that is only read, its last axis contiguous."""
    return types.Array(kind, dimensions, "C", readonly=True)


def made(kind: Any, dimensions: int = 1) -> Any:
    """The type of an array that is written."""
    return types.Array(kind, dimensions, "C")


def compiled(*signatures: Any) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Compile for these signatures at import; from the second time on, the machine code is read from the disk.

    What a compiled function calls must be `part` of the same file: the stored code follows changes of that file only.
    Arguments are not checked; callers are the only guard against indices that lie outside.
    """
    return cast(
        Callable[[Callable[P, R]], Callable[P, R]],
        numba.njit(list(signatures), cache=True, nogil=True, error_model="numpy"),
    )


def part(function: Callable[P, R]) -> Callable[P, R]:
    """A function that is compiled into those that call it."""
    return cast(Callable[P, R], numba.njit(forceinline=True, nogil=True, error_model="numpy")(function))
