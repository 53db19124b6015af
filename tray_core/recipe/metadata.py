"""What the file station says of metadata: which of a photo's words and facts go out with a rendition."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from tray_core.recipe.base import Station
from tray_core.recipe.pattern import check_text_pattern

_MOST = 1000


def _checked(pattern: str) -> str:
    check_text_pattern(pattern)
    return pattern


Text = Annotated[str, Field(max_length=_MOST), AfterValidator(_checked)]
"""A pattern of a photo's words and facts."""

LeftOut = Literal["place", "people", "camera"]


class Texts(Station):
    """Words that a recipe writes into its renditions, instead of the photo's own; patterns, lists with commas."""

    title: Text | None = None
    alt: Text | None = None
    description: Text | None = None
    keywords: Text | None = None
    creator: Text | None = None
    credit: Text | None = None
    rights: Text | None = None
    usage: Text | None = None
    contact: Text | None = None
    place: Text | None = None
    people: Text | None = None

    @property
    def given(self) -> dict[str, str]:
        """The patterns that there are, by the word."""
        return {name: pattern for name in type(self).model_fields if (pattern := getattr(self, name)) is not None}


class Metadata(Station):
    """Which metadata a rendition carries.

    keep: nothing; rights (creator, credit, copyright, usage terms, contact); or everything that the photo says.
    leave_out: what does not go out all the same: place (location and its names), people (names and faces), camera
    (make, settings, serial numbers). set: words to add or to put in the place of the photo's; they go out
    whatever is kept.
    """

    keep: Literal["none", "rights", "all"] = "none"
    leave_out: Annotated[tuple[LeftOut, ...], Field(strict=False)] = ()
    set: Texts = Texts()

    @property
    def writes(self) -> bool:
        """Whether anything is written at all."""
        return self.keep != "none" or bool(self.set.given)
