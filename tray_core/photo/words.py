"""The words of a photo: what it says of itself beside its pixels, as people read and type them."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

LISTS = ("keywords", "people")
"""The words that are lists of texts; the others are one text each."""

LONGEST = 10_000
"""Characters of one text: longer ones are cut, since files may hold anything."""

MOST = 500
"""Entries of a list."""

_CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\u2028\u2029\ufeff]")
_PARTED = re.compile(r"[;,\n]")


@dataclass(frozen=True, kw_only=True, slots=True)
class Words:
    """Texts in NFC without control characters, "" where there is none.

    description: what is to be seen, and why it matters. alt: what is to be seen, for those who do not see it.
    credit: the line that is printed beside the photo. rights: the copyright notice. usage: what may be done with it.
    contact: how to reach its creator. place: from the narrowest to the widest, comma between. people: who is shown.
    """

    title: str = ""
    alt: str = ""
    description: str = ""
    keywords: tuple[str, ...] = ()
    creator: str = ""
    credit: str = ""
    rights: str = ""
    usage: str = ""
    contact: str = ""
    place: str = ""
    people: tuple[str, ...] = ()

    def to_json(self) -> dict[str, Any]:
        """Only the words that there are, lists as lists."""
        found = {name: getattr(self, name) for name in NAMES}
        return {name: list(value) if name in LISTS else value for name, value in found.items() if value}


NO_WORDS = Words()

NAMES = tuple(field.name for field in fields(Words))
"""The names of all words, in the order in which they are shown."""

RIGHTS = ("creator", "credit", "rights", "usage", "contact")
"""The words that say whose a photo is, and what may be done with it."""


def clean_text(text: str) -> str:
    """`text` without control characters and outer spaces, in NFC, not longer than `LONGEST`."""
    lines = _CONTROL.sub("", text.replace("\r\n", "\n").replace("\r", "\n"))
    lines = lines.encode("utf-8", "replace").decode()
    return unicodedata.normalize("NFC", lines).strip()[:LONGEST].strip()


def clean_list(texts: Sequence[str]) -> tuple[str, ...]:
    """The texts cleaned, each once, in their order."""
    cleaned = (clean_text(text).replace("\n", " ") for text in texts)
    return tuple(dict.fromkeys(text for text in cleaned if text))[:MOST]


def list_from_text(text: str) -> tuple[str, ...]:
    """A list as people type it: commas, semicolons or line ends between its entries."""
    return clean_list(_PARTED.split(text))


def text_of(value: str | Sequence[str]) -> str:
    """A word as one text, as people type it."""
    return value if isinstance(value, str) else ", ".join(value)


def words_from_json(data: Mapping[str, Any]) -> Words:
    """What `Words.to_json` wrote, or what somebody typed; ValueError names what is no word."""
    found: dict[str, Any] = {}
    for name, value in data.items():
        if name not in NAMES:
            raise ValueError(f"{name!r}, which is no word of a photo; the words are {', '.join(NAMES)}")
        if name in LISTS:
            found[name] = list_from_text(value) if isinstance(value, str) else clean_list(value)
        else:
            found[name] = clean_text(value)
    return Words(**found)


def typed_over(words: Words, typed: Mapping[str, Any]) -> Words:
    """`words` with what a person typed above them; a word typed as empty is empty."""
    if not typed:
        return words
    over = words_from_json(typed)
    return replace(words, **{name: getattr(over, name) for name in typed})


def without_names(words: Mapping[str, Any], of: Words, left_out: Sequence[str]) -> dict[str, Any]:
    """`words` whose keywords name no place or nobody, where these are left out. of: the words that name them."""
    names = {text.casefold() for text in of.people} if "people" in left_out else set()
    if "place" in left_out:
        names |= {text.strip().casefold() for text in of.place.split(",")}
    if "keywords" not in words or not names:
        return dict(words)
    return {**words, "keywords": tuple(each for each in words["keywords"] if each.casefold() not in names)}
