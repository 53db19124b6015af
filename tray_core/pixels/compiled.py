"""Python compiled to machine code by Numba: what the line does to every pixel, where no library does it as fast.

Numba itself comes with the first pixel. Most processes never meet one: it would be half of their start.
"""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Sequence
from functools import cache
from typing import Any, ParamSpec, TypeVar, cast

P = ParamSpec("P")
R = TypeVar("R")


@cache
def _numba() -> Any:
    """Numba, set for this processor. It looks for SciPy's linear algebra where that is installed, and nothing here
    calls it: another fifth of a second."""
    absent = "scipy" not in sys.modules
    if absent:
        sys.modules["scipy"] = None  # type: ignore[assignment]  # the import system's own mark for what is not there
    try:
        import numba
        from llvmlite import binding
        from numba.core.registry import cpu_target

        features = binding.get_host_cpu_features()
        if features.get("avx512bw"):
            # Vectors of 512 bits, half of which is what compilers prefer: a seventh of the time, and the same results.
            wide = f"{features.flatten()},-prefer-256-bit"
            vars(numba.config).update(CPU_NAME=binding.get_host_cpu_name(), CPU_FEATURES=wide)
        cpu_target.typing_context.refresh()
        cpu_target.target_context.refresh()
    finally:
        if absent:
            del sys.modules["scipy"]
    return numba


class _Types:
    """Numba's types, by name."""

    def __getattr__(self, name: str) -> Any:
        return getattr(_numba().types, name)


types: Any = _Types()

# Neither here nor there "fastmath": sums keep their order, so that the same input gives the same bytes everywhere.

_making = threading.RLock()


class Late:
    """A function of compiled code that Numba makes when it is first needed.

    inside: whether compiled functions call it, rather than Python.
    """

    def __init__(self, make: Callable[[], Any], names: dict[str, Any], inside: bool) -> None:
        self._make, self._names, self.inside = make, names, inside
        self._made: Any = None

    def made(self) -> Any:
        """What Numba makes of it; first what it may call, whose names it has among its module's."""
        with _making:
            if self._made is None:
                for name, value in list(self._names.items()):
                    if isinstance(value, Late) and value.inside and value is not self:
                        self._names[name] = value.made()
                self._made = self._make()
            return self._made

    def __call__(self, *args: Any) -> Any:
        return (self._made or self.made())(*args)


def read(kind: Any, dimensions: int = 1) -> Any:
    """The type of an array that is only read, its last axis contiguous."""
    return types.Array(kind, dimensions, "C", readonly=True)


def made(kind: Any, dimensions: int = 1) -> Any:
    """The type of an array that is written."""
    return types.Array(kind, dimensions, "C")


def compiled(signatures: Callable[[], Sequence[Any]]) -> Callable[[Callable[P, R]], Callable[P, R]]:
    """Compile for these signatures at the first call; from the second time on, machine code is read from the disk.

    What a compiled function calls must be `part` of the same file: the stored code follows changes of that file only.
    Arguments are not checked; callers are the only guard against indices that lie outside.
    """

    def late(function: Callable[P, R]) -> Callable[P, R]:
        def make() -> Any:
            return _numba().njit(list(signatures()), cache=True, nogil=True, error_model="numpy")(function)

        return cast(Callable[P, R], Late(make, function.__globals__, inside=False))

    return late


def part(function: Callable[P, R]) -> Callable[P, R]:
    """A function that is compiled into those that call it."""

    def make() -> Any:
        return _numba().njit(forceinline=True, nogil=True, error_model="numpy")(function)

    return cast(Callable[P, R], Late(make, {}, inside=True))


def get_ready(*names: dict[str, Any]) -> None:
    """Compile, or read from the disk, what modules have to be compiled. names: their globals."""
    for each in names:
        for value in list(each.values()):
            if isinstance(value, Late):
                value.made()
