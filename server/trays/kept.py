"""Keeping what was computed of a whole tray for as long as nothing changes that it depends on."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Generic, TypeVar

Value = TypeVar("Value")
MOST = 8
"""Trays of which something is kept; the one used longest ago is forgotten first."""


class Kept(Generic[Value]):
    """One value a tray, with the mark that it was computed under."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._values: OrderedDict[int, tuple[object, Value]] = OrderedDict()

    def has(self, tray: int) -> bool:
        """Whether anything is kept of the tray, of now or before."""
        with self._lock:
            return tray in self._values

    def get(self, tray: int, mark: object) -> Value | None:
        """The value, if it was computed under this mark."""
        with self._lock:
            found = self._values.get(tray)
            return found[1] if found is not None and found[0] == mark else None

    def keep(self, tray: int, mark: object, value: Value) -> None:
        """Keep a value in place of the one before."""
        with self._lock:
            self._values[tray] = mark, value
            self._values.move_to_end(tray)
            while len(self._values) > MOST:
                self._values.popitem(last=False)
