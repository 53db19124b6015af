"""A photo's numbers in a tray, as {n} tells them."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from tray_core.photo.facts import PhotoFacts
from tray_core.recipe.name import Name


class Number(NamedTuple):
    """A photo's place, from 1, among all of the tray, of its folder, of its shape, and of those that can be read."""

    run: int
    folder: int
    shape: int
    recipe: int

    @classmethod
    def alone(cls, n: int) -> Number:
        """Of a photo of which nothing else is known."""
        return cls(n, n, n, n)

    def told(self, name: Name) -> int:
        """What {n} is in a name."""
        return name.start + (int(getattr(self, name.count)) - 1) * name.step


class Numbers:
    """Numbers photos as they come."""

    def __init__(self) -> None:
        self._counts: Counter[str] = Counter()

    def next(self, facts: PhotoFacts | None) -> Number:
        """The next photo's; None stands for one that cannot be read, which keeps its place in the tray."""
        found = [self._count("run")]
        if facts is None:
            return Number.alone(found[0])
        folder = facts.path.rpartition("/")[0]
        return Number(*found, *(self._count(key) for key in (f"in {folder}", f"is {facts.shape}", "read")))

    def _count(self, key: str) -> int:
        self._counts[key] += 1
        return self._counts[key]
