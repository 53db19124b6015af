"""What all senders have in common. None of them knows of the database, and none logs anything."""

from __future__ import annotations

import hashlib
from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from typing import Any

from tray_core.errors import TrayError

CHUNK = 4 << 20
SECONDS = 60
"""That one request may take."""


class Refused(TrayError):
    """It will not be taken, however often it is sent: a rule, a wrong secret, a name."""


class Wait(TrayError):
    """Something is in the way that may go: it is tried again. seconds: not before, where the other side said so."""

    seconds: float | None = None

    @classmethod
    def after(cls, seconds: float | None, subject: str, *, expected: str, found: str, remedy: str) -> Wait:
        error = cls(subject, expected=expected, found=found, remedy=remedy)
        error.seconds = seconds
        return error


@dataclass(frozen=True, slots=True)
class Account:
    """Where to: the account's name, its settings, and its secret."""

    name: str
    settings: Mapping[str, Any]
    secret: str = field(repr=False)


@dataclass(frozen=True, slots=True)
class Parcel:
    """One file. folder: below the account's own place. key: the same at each try, so that it is taken once."""

    file: Path
    name: str
    folder: str
    bytes: int
    sha256: str
    key: str
    outlet: str = ""
    use: str = ""
    words: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Sent:
    """address: where it is now, as people open or name it. sha256: as told by the other side, or read back there."""

    address: str
    sha256: str


class Sender(ABC):
    """A way to one account."""

    def __init__(self, account: Account) -> None:
        self.account = account

    @abstractmethod
    def send(self, parcel: Parcel) -> Sent:
        """Bring a parcel there, from where the last try came to as far as the other side knows it.

        Sent, or Refused or Wait. A parcel that is there already, from a try that nobody remembers, is not brought
        twice.
        """

    @abstractmethod
    def check(self) -> None:
        """Return where it answers and lets us in; Refused or Wait otherwise."""

    @abstractmethod
    def close(self) -> None:
        """Let go of connections."""


def free_names(name: str) -> Iterator[str]:
    """The name, then the same with numbers."""
    stem, dot, ending = name.rpartition(".")
    for number in count(1):
        yield name if number == 1 else f"{stem or ending}-{number}{dot}{ending if stem else ''}"


def digest_of(pieces: Iterator[bytes]) -> str:
    """SHA-256 of what comes in pieces."""
    made = hashlib.sha256()
    for piece in pieces:
        made.update(piece)
    return made.hexdigest()
