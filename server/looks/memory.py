"""Keeping costly values in memory, up to so many bytes: those used longest ago are forgotten first."""

from __future__ import annotations

from collections.abc import Callable
from threading import Lock
from typing import Any

from cachetools import LRUCache


class Memory:
    """Values by key; each is made once, however many ask for it at the same time."""

    def __init__(self, most: int) -> None:
        self._values: LRUCache[str, tuple[Any, int]] = LRUCache(most, getsizeof=lambda held: held[1])
        self._lock = Lock()
        self._making: dict[str, Lock] = {}

    def get(self, key: str, make: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        """The value of `key`, made now where it is not kept. size: of a value, in bytes."""
        with self._lock:
            if key in self._values:
                return self._values[key][0]
            making = self._making.setdefault(key, Lock())
        with making:
            with self._lock:
                if key in self._values:
                    return self._values[key][0]
            try:
                value = make()
                held = size(value)
                with self._lock:
                    if held <= self._values.maxsize:
                        self._values[key] = value, held
            finally:
                # Only now: whoever comes between the making and the keeping would make it once more.
                with self._lock:
                    self._making.pop(key, None)
            return value
