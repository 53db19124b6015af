"""The name station: a pattern, and how its texts become a file's name."""

from __future__ import annotations

from typing import Annotated, Literal

import regex
from pydantic import Field, field_validator, model_validator

from tray_core.recipe.base import Conflict, Station
from tray_core.recipe.pattern import WORDS, check_file_pattern, fields_in


class Replacement(Station):
    """Something to find in the name, and what is put in its place. regex: an expression, its groups \\1, \\2, …"""

    find: Annotated[str, Field(min_length=1, max_length=200)]
    put: Annotated[str, Field(max_length=200)] = ""
    regex: bool = False

    @model_validator(mode="after")
    def _compiles(self) -> Replacement:
        if not self.regex:
            return self
        try:
            compiled = regex.compile(self.find)
            compiled.sub(self.put, "", timeout=0.1)
        except TimeoutError:
            pass
        except (regex.error, IndexError) as error:
            raise Conflict(
                "name.replace",
                expected="an expression that can be read",
                found=f"{self.find!r} ({error})",
                remedy="Correct it, or find it as plain text.",
            ) from error
        return self


class Name(Station):
    """The file's name in Python's format syntax; the extension follows the format.

    letters: as they are, or in ASCII, other scripts written as they sound. spaces: as they are, or words joined by a
    hyphen or underscore, without other punctuation. replace: in turn, in the whole name. longest: bytes of the whole
    name with its extension; it loses whole words, and keeps its number. start, step: of {n}. count: what {n} counts:
    the photos of the run, of each folder, of each shape (landscape, portrait, square), or, for each recipe, those that
    it can make.
    """

    pattern: Annotated[str, Field(min_length=1, max_length=200)]
    letters: Literal["unicode", "ascii"] = "unicode"
    case: Literal["as-is", "lower", "upper"] = "as-is"
    spaces: Literal["as-is", "-", "_"] = "as-is"
    replace: Annotated[tuple[Replacement, ...], Field(strict=False, max_length=12)] = ()
    longest: Annotated[int, Field(ge=12, le=190)] | None = None
    start: Annotated[int, Field(ge=0, le=1_000_000)] = 1
    step: Annotated[int, Field(ge=1, le=1000)] = 1
    count: Literal["run", "folder", "shape", "recipe"] = "run"

    @property
    def tells_words(self) -> bool:
        """Whether the name has any of a photo's words."""
        return not fields_in(self.pattern).isdisjoint(WORDS)

    @field_validator("pattern")
    @classmethod
    def _check(cls, pattern: str) -> str:
        check_file_pattern(pattern)
        return pattern
