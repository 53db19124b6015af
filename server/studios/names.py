"""Names that people give: no two things of a kind have the same one."""

from __future__ import annotations

from collections.abc import Collection
from itertools import count


def unused(name: str, taken: Collection[str], longest: int) -> str:
    """`name`, or with a number behind it where it is taken: "Autumn", "Autumn 2". longest: in characters."""
    known = {each.casefold() for each in taken}
    for number in count(1):
        end = "" if number == 1 else f" {number}"
        if (tried := name[: longest - len(end)].rstrip() + end).casefold() not in known:
            return tried
    raise AssertionError("there is always a number")
