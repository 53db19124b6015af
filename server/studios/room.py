"""How many bytes a studio may keep on the server's disk, and how many it does."""

from __future__ import annotations

from collections.abc import Callable

from server.http.problems import Problem
from server.studios.models import Studio

Takes = Callable[[Studio], dict[str, int]]
_takers: list[Takes] = []


def takes_room(count: Takes) -> Takes:
    """Register what counts the bytes of a folder's things, by their kind. It asks the database, no disk."""
    _takers.append(count)
    return count


def taken(studio: Studio) -> dict[str, int]:
    """What a studio's things take, by kind."""
    found: dict[str, int] = {}
    for count in _takers:
        found |= count(studio)
    return found


def check_room(studio: Studio, wanted: int, what: str) -> None:
    """Problem (507) where `wanted` more bytes do not fit. what: the thing that asks for them."""
    left = max(0, studio.quota - sum(taken(studio).values()))
    if wanted > left:
        raise Problem(
            507,
            "No room left",
            f"{what}: expected at most {_size(left)}, which is left of the studio's {_size(studio.quota)}, "
            f"found about {_size(wanted)}. Clear what you no longer need on the Storage page.",
        )


def _size(count: int) -> str:
    unit, name = next(each for each in ((1e9, "GB"), (1e6, "MB"), (1e3, "kB")) if count >= each[0] or each[0] == 1e3)
    return f"{count / unit:,.1f} {name}"
