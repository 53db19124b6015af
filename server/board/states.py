"""What is with a cell: by what is wanted, and by the newest that was made of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple, Protocol

from server.runs.models import Rendition
from tray_core import Plan


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
    @property
    def question(self) -> str: ...


class Wish(NamedTuple):
    """What a rendition is to be. name, folder: empty where they are not known; places are not compared then."""

    fingerprint: str
    name: str
    folder: str


_LOUDEST = ("failed", "making", "waiting", "asking", "outdated", "planned", "kept", "done")


def cell_state(wishes: Sequence[Wish], needs: str, excluded: bool, made: Mapping[int, Made]) -> str:
    """planned, outline, eye, word, excluded, done, kept, outdated, failed, waiting, making or asking.

    needs: what it waits for before it can be made: an outline, an eye, a word, or "". made: the newest by part, from 1.
    """
    if excluded:
        return "excluded"
    states = {state_of(wish, made.get(part)) for part, wish in enumerate(wishes, 1)}
    # The one that most needs to be known speaks for all parts.
    state = next(each for each in _LOUDEST if each in states)
    return needs if needs and state in ("planned", "outdated") else state


def needed(plans: Sequence[Plan]) -> str:
    """What a cell needs before it can be made: "outline" for its object's, "eye" for a crop, "word" for a word of its
    name, or "".
    """
    if plans[0].needs_outline:
        return "outline"
    if plans[0].layout.asks:
        return "eye"
    return "word" if any(warning.code == "no-word" for plan in plans for warning in plan.warnings) else ""


def state_of(wish: Wish, made: Made | None) -> str:
    """planned, waiting, making, asking, done, outdated, failed or kept."""
    if made is not None and made.state == Rendition.State.ASKING and made.question == Rendition.Question.NAME:
        return "asking"
    if made is None or made.state in (Rendition.State.STOPPED, Rendition.State.ASKING):
        return "planned"
    if made.state in (*Rendition.OPEN, Rendition.State.FAILED):
        return made.state
    if made.lost or made.fingerprint != wish.fingerprint:
        return "outdated"
    if wish.name and (made.name, made.folder) != (wish.name, wish.folder):
        return "outdated"
    return "done" if made.state == Rendition.State.MADE else "kept"
