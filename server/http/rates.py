"""How often strangers may ask: so many times in a while, counted in this process."""

from __future__ import annotations

from threading import Lock

from cachetools import TTLCache

from server.http.problems import Problem


class Rate:
    """most: times in `seconds`, for each key."""

    def __init__(self, most: int, seconds: float) -> None:
        self._most = most
        self._seconds = seconds
        self._counts: TTLCache[str, list[int]] = TTLCache(100_000, seconds)
        self._lock = Lock()

    def check(self, key: str) -> None:
        """Count one more; Problem (429) where it is one too many."""
        with self._lock:
            # A list, so that counting on does not begin the while anew.
            count = self._counts.setdefault(key, [0])
            count[0] += 1
            over = count[0] > self._most
        if over:
            minutes = max(1, round(self._seconds / 60))
            raise Problem(429, "Too many tries", f"Wait {minutes} min, then try again.")

    def forget(self) -> None:
        """Begin anew."""
        with self._lock:
            self._counts.clear()
