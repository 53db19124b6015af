"""What all stations are made of."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

MAX_PIXELS = 65_500
"""The longest edge that is made: what a JPEG can hold (ITU-T T.81 allows 65,535, coders less)."""


class Station(BaseModel):
    """Unknown keys are an error that names the key; numbers are never guessed from text."""

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)


class Conflict(ValueError):
    """Stations that do not go together; names the field that has to change.

    inner: the field is told from the station that raises it, and not from the whole.
    """

    def __init__(self, field: str, *, expected: str, found: str, remedy: str, inner: bool = False) -> None:
        super().__init__(f"expected {expected}, found {found}")
        self.inner = inner
        self.field, self.expected, self.found, self.remedy = field, expected, found, remedy
