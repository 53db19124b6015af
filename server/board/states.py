"""What is with a cell: by what is wanted, and by the newest that was made of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple, Protocol

from server.runs.models import Rendition


class Made(Protocol):
    """A rendition's row, or as much of it as states need."""

    @property
    def state(self) -> str: ...
    @property
    def lost(self) -> str: ...
    @property
    def fingerprint(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def folder(self) -> str: ...


class Wish(NamedTuple):
    """What a rendition is to be. name, folder: empty where they are not known; places are not compared then."""

    fingerprint: str
    name: str
    folder: str


_LOUDEST = ("failed", "making", "waiting", "outdated", "planned", "kept", "done")


def cell_state(wishes: Sequence[Wish], asks: bool, excluded: bool, made: Mapping[int, Made]) -> str:
    """planned, eye, excluded, done, kept, outdated, failed, waiting or making. made: the newest by part, from 1."""
    if excluded:
        return "excluded"
    states = {state_of(wish, made.get(part)) for part, wish in enumerate(wishes, 1)}
    # The one that most needs to be known speaks for all parts.
    state = next(each for each in _LOUDEST if each in states)
    return "eye" if asks and state in ("planned", "outdated") else state


def state_of(wish: Wish, made: Made | None) -> str:
    """planned, waiting, making, done, outdated, failed or kept."""
    if made is None or made.state in (Rendition.State.STOPPED, Rendition.State.ASKING):
        return "planned"
    if made.state in (*Rendition.OPEN, Rendition.State.FAILED):
        return made.state
    if made.lost or made.fingerprint != wish.fingerprint:
        return "outdated"
    if wish.name and (made.name, made.folder) != (wish.name, wish.folder):
        return "outdated"
    return "done" if made.state == Rendition.State.MADE else "kept"
