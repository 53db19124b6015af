"""File names and subfolders from patterns and a photo's facts."""

from __future__ import annotations

import datetime as dt
import functools
import math
import os
import re
import unicodedata
from collections.abc import Mapping
from typing import NamedTuple

import regex
from anyascii import anyascii

from tray_core.photo.words import NAMES, NO_WORDS, Words, text_of
from tray_core.recipe.name import Name, Replacement
from tray_core.recipe.pattern import NUMBERS, WORDS, parse_pattern, parse_text_pattern

MAX_NAME = 180
"""Bytes of a name without its extension; file systems hold 255, temporary names want some of it."""

_UNSAFE = re.compile(r'[/\\:*?"<>|\x00-\x1f\x7f]+')
_RESERVED = re.compile(r"(?:con|prn|aux|nul|com\d|lpt\d)(?:\..*)?", re.IGNORECASE)
_QUOTES = re.compile(r"['’‘`´]")
_SEPARATORS = " -_.,"
_PATIENCE = 0.05
"""Seconds of CPU that one expression may take over one name."""

Field = str | int | dt.datetime


def fields_of(
    path: str,
    *,
    recipe: str,
    n: int,
    width: int,
    height: int,
    date: dt.datetime | None,
    tray: str,
    shelf: str = "",
    panel: int = 1,
    shape: tuple[float, float] | None = None,
    words: Words = NO_WORDS,
) -> dict[str, Field]:
    """The values of all pattern fields for one rendition.

    width, height: of the rendition, in pixels. shape: the recipe's own, where it gives one: rounded pixels hide it.
    words: the photo's.
    """
    common = math.gcd(width, height)
    if shape is not None:
        whole = all(float(edge).is_integer() for edge in shape)
        shared = math.gcd(*map(int, shape)) if whole else 1
        ratio = "x".join(f"{edge / shared:g}" for edge in shape)
    else:
        ratio = f"{width // common}x{height // common}"
    stem, folder, original = _parts_of(path)
    return {
        **_texts_of(words),
        "stem": stem,
        "original": original,
        "recipe": recipe,
        "shelf": shelf,
        # Recipes of one outlet stand on one shelf.
        "outlet": shelf,
        "n": n,
        "panel": panel,
        "width": width,
        "height": height,
        "ratio": ratio,
        "date": date or dt.datetime(1970, 1, 1),
        "tray": tray,
        "folder": folder,
    }


@functools.lru_cache(maxsize=256)
def _texts_of(words: Words) -> dict[str, str]:
    """A photo's words, each as one text; asked for by every recipe of it."""
    return {name: text_of(getattr(words, name)) for name in NAMES}


@functools.lru_cache(maxsize=1024)
def _parts_of(path: str) -> tuple[str, str, str]:
    """(stem, folder, name) of a photo; asked for by every recipe of it."""
    name = os.path.basename(path)  # noqa: PTH119
    return os.path.splitext(name)[0], os.path.basename(os.path.dirname(path)), name  # noqa: PTH119, PTH120, PTH122


@functools.lru_cache(maxsize=1024)
def safe_text(text: str) -> str:
    """`text` as part of a file name on every usual file system: NFC, unsafe characters as hyphens."""
    return _UNSAFE.sub("-", unicodedata.normalize("NFC", text))


class Stem(NamedTuple):
    """A file's name without its extension. missing: words that the photo lacks. slow: an expression ran away."""

    text: str
    missing: tuple[str, ...] = ()
    slow: bool = False


def file_stem(name: Name, fields: Mapping[str, Field], longest: int = MAX_NAME) -> Stem:
    """The file's name without its extension, safe on every usual file system, of at most so many bytes.

    A title that is missing gives way to the photo's own name. What is too long loses whole words before its number.
    """
    pieces: list[tuple[str, str]] = []
    missing: list[str] = []
    made, emptied = "", False
    for literal, alternatives, spec in parse_pattern(name.pattern):
        if emptied and (not made or made[-1] in _SEPARATORS):
            literal = literal.lstrip(_SEPARATORS)
        pieces.append(("literal", _dressed(literal, name)))
        if alternatives:
            field, text = _value(alternatives, fields, spec)
            if not text and field in WORDS:
                missing.append(field)
                text = str(fields["stem"]) if field == "title" else ""
            numbers = field in NUMBERS
            pieces.append(("number", text) if numbers else ("text", _dressed(safe_text(text), name)))
            emptied = not pieces[-1][1]
        made = "".join(text for _, text in pieces)
    changed, slow = _replaced(made, name.replace)
    tail = _numbered_tail(pieces)
    if tail and changed.endswith(tail) and len(tail.encode()) < longest:
        kept = _shortened(changed.removesuffix(tail), longest - len(tail.encode())) + tail
    else:
        kept = _shortened(changed, longest)
    if emptied:
        kept = kept.rstrip(_SEPARATORS)
    if name.spaces != "as-is":
        kept = re.sub(rf"{re.escape(name.spaces)}{{2,}}", name.spaces, kept).strip(name.spaces)
    return Stem(_finished(kept), tuple(missing), slow)


def _value(alternatives: tuple[str, ...], fields: Mapping[str, Field], spec: str) -> tuple[str, str]:
    """(field, text) of the first alternative that has a value; of the first one where none has."""
    for place, field in enumerate(alternatives):
        value = fields[field]
        if value == "":
            continue
        given = spec if place == 0 else ""
        if isinstance(value, dt.datetime):
            return field, format(value, given or "%Y-%m-%d")
        return field, format(value, given)
    return alternatives[0], ""


def _dressed(text: str, name: Name) -> str:
    """A text in the letters, the case and with the separators that the name station asks for."""
    if name.letters == "ascii" and not text.isascii():
        text = safe_text(anyascii(text))
    if name.case != "as-is":
        text = text.lower() if name.case == "lower" else text.upper()
    if name.spaces != "as-is":
        text = _QUOTES.sub("", text)
        text = "".join(each if each.isalnum() or each in "-_." or _is_mark(each) else name.spaces for each in text)
        text = re.sub(rf"{re.escape(name.spaces)}{{2,}}", name.spaces, text)
    return text


def _is_mark(letter: str) -> bool:
    return not letter.isascii() and unicodedata.category(letter).startswith("M")


def _replaced(text: str, replacements: tuple[Replacement, ...]) -> tuple[str, bool]:
    """The text with everything found and replaced in turn, and whether an expression took too long and was left out."""
    slow = False
    for each in replacements:
        if not each.regex:
            text = text.replace(each.find, each.put)
            continue
        try:
            text = regex.sub(each.find, each.put, text, timeout=_PATIENCE)
        except TimeoutError:
            slow = True
        except (regex.error, IndexError):  # a group that is not there
            continue
    return safe_text(text), slow


def _numbered_tail(pieces: list[tuple[str, str]]) -> str:
    """What stands behind the last text field, where a number is in it: it stays when a name is cut."""
    behind: list[tuple[str, str]] = []
    for kind, text in reversed(pieces):
        if kind == "text":
            break
        behind.insert(0, (kind, text))
    return "".join(text for _, text in behind) if any(kind == "number" for kind, _ in behind) else ""


def _shortened(text: str, longest: int) -> str:
    """`text` in at most so many bytes of UTF-8: whole words as long as that leaves half of it, letters otherwise."""
    if len(text.encode()) <= longest:
        return text
    cut = text.encode()[: max(1, longest)].decode("utf-8", "ignore")
    end = max((cut.rfind(separator) for separator in _SEPARATORS), default=-1)
    following = text[len(cut) : len(cut) + 1]
    if following not in _SEPARATORS and end > len(cut) // 2:
        cut = cut[:end]
    return cut.rstrip(_SEPARATORS)


def _finished(text: str) -> str:
    """A whole name or folder: no dots or spaces at its ends, not reserved, not too long, not empty."""
    text = unicodedata.normalize("NFC", text).strip(" .")
    if len(text.encode()) > MAX_NAME:
        text = text.encode()[:MAX_NAME].decode("utf-8", "ignore").rstrip(" .")
    if _RESERVED.fullmatch(text):
        text = f"_{text}"
    return text or "untitled"


def filled_text(pattern: str, fields: Mapping[str, Field]) -> str:
    """A text pattern with its values; words that are missing leave nothing."""
    made = ""
    for literal, alternatives, spec in parse_text_pattern(pattern):
        made += literal + (_value(alternatives, fields, spec)[1] if alternatives else "")
    return made.strip()


def words_lacking(pattern: str, fields: Mapping[str, Field]) -> set[str]:
    """The words in a text pattern that a photo lacks, with all that could stand in for them."""
    lacking = set()
    for _, alternatives, spec in parse_text_pattern(pattern):
        if alternatives and alternatives[0] in NAMES and not _value(alternatives, fields, spec)[1]:
            lacking.add(alternatives[0])
    return lacking


def subfolder(pattern: str, fields: Mapping[str, Field]) -> str:
    """The folder below the output root, with slashes between its levels; "" for the root itself.

    Levels come from the pattern alone: a slash or dots in a field's value never make one.
    """
    if "{" not in pattern:
        return _plain_subfolder(pattern)
    return "/".join(_finished(_level(level, fields)) for level in pattern.split("/") if level.strip())


@functools.lru_cache(maxsize=256)
def _plain_subfolder(pattern: str) -> str:
    return "/".join(_finished(_level(level, {})) for level in pattern.split("/") if level.strip())


def _level(pattern: str, fields: Mapping[str, Field]) -> str:
    pieces = parse_pattern(pattern)
    return "".join(
        literal + (safe_text(_value(each, fields, spec)[1]) if each else "") for literal, each, spec in pieces
    )


def numbered(stem: str, number: int, longest: int = 255) -> str:
    """The same name with a number behind it, within so many bytes: "dial", 2 -> "dial-2"."""
    return f"{_shortened(stem, longest - len(str(number)) - 1)}-{number}"


class Names:
    """Names given so far in one run; a name that was given before gets the next free number.

    Names that differ in letter case only count as the same: many file systems think so.
    """

    def __init__(self) -> None:
        self._given: set[str] = set()
        self._next: dict[str, int] = {}

    def take(self, folder: str, name: str) -> None:
        """Note a file name that is given already."""
        self._given.add(f"{folder}/{name}".casefold())

    def give(self, folder: str, stem: str, extension: str, longest: int = 255) -> tuple[str, bool]:
        """Return (file name, whether it had to be numbered). longest: bytes of the name without its extension."""
        key = f"{folder}/{stem}.{extension}".casefold()
        if key not in self._given:
            self._given.add(key)
            return f"{stem}.{extension}", False
        number = self._next.get(key, 2)
        while (tried := f"{folder}/{numbered(stem, number, longest)}.{extension}".casefold()) in self._given:
            number += 1
        self._given.add(tried)
        self._next[key] = number + 1
        return f"{numbered(stem, number, longest)}.{extension}", True
