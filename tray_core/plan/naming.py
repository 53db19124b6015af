"""File names and subfolders from patterns and a photo's facts."""

from __future__ import annotations

import datetime as dt
import functools
import math
import os
import re
import unicodedata
from collections.abc import Mapping

from tray_core.recipe.pattern import parse_pattern

MAX_NAME = 180
"""Bytes of a name without its extension; file systems hold 255, temporary names want some of it."""

_UNSAFE = re.compile(r'[/\\:*?"<>|\x00-\x1f\x7f]+')
_RESERVED = re.compile(r"(?:con|prn|aux|nul|com\d|lpt\d)(?:\..*)?", re.IGNORECASE)

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
) -> dict[str, Field]:
    """The values of all pattern fields for one rendition.

    width, height: of the rendition, in pixels. shape: the recipe's own, where it gives one: rounded pixels hide it.
    """
    common = math.gcd(width, height)
    if shape is not None:
        whole = all(float(edge).is_integer() for edge in shape)
        shared = math.gcd(*map(int, shape)) if whole else 1
        ratio = "x".join(f"{edge / shared:g}" for edge in shape)
    else:
        ratio = f"{width // common}x{height // common}"
    stem, folder = _parts_of(path)
    return {
        "stem": stem,
        "recipe": recipe,
        "shelf": shelf,
        "n": n,
        "panel": panel,
        "width": width,
        "height": height,
        "ratio": ratio,
        "date": date or dt.datetime(1970, 1, 1),
        "tray": tray,
        "folder": folder,
    }


@functools.lru_cache(maxsize=1024)
def _parts_of(path: str) -> tuple[str, str]:
    """(stem, folder) of a photo; asked for by every recipe of it."""
    return os.path.splitext(os.path.basename(path))[0], os.path.basename(os.path.dirname(path))  # noqa: PTH119, PTH120, PTH122


def safe_text(text: str) -> str:
    """`text` as part of a file name on every usual file system: NFC, unsafe characters as hyphens."""
    return _UNSAFE.sub("-", unicodedata.normalize("NFC", text))


def _finished(text: str) -> str:
    """A whole name or folder: no dots or spaces at its ends, not reserved, not too long, not empty."""
    text = text.strip(" .")
    while len(text.encode()) > MAX_NAME:
        text = text[:-1].rstrip(" .")
    if _RESERVED.fullmatch(text):
        text = f"_{text}"
    return text or "untitled"


def _filled(pattern: str, fields: Mapping[str, Field]) -> str:
    pieces = []
    for literal, field, spec in parse_pattern(pattern):
        pieces.append(literal)
        if field is not None:
            value = fields[field]
            if isinstance(value, dt.datetime):
                spec = spec or "%Y-%m-%d"
            pieces.append(safe_text(format(value, spec)))
    return "".join(pieces)


def file_stem(pattern: str, fields: Mapping[str, Field]) -> str:
    """The file's name without its extension, safe on every usual file system."""
    return _finished(_filled(pattern, fields))


def subfolder(pattern: str, fields: Mapping[str, Field]) -> str:
    """The folder below the output root, with slashes between its levels; "" for the root itself.

    Levels come from the pattern alone: a slash or dots in a field's value never make one.
    """
    if "{" not in pattern:
        return _plain_subfolder(pattern)
    levels = (_finished(_filled(level, fields)) for level in pattern.split("/") if level.strip())
    return "/".join(levels)


@functools.lru_cache(maxsize=256)
def _plain_subfolder(pattern: str) -> str:
    return "/".join(_finished(_filled(level, {})) for level in pattern.split("/") if level.strip())


def numbered(stem: str, number: int) -> str:
    """The same name with a number behind it: "dial", 2 -> "dial-2"."""
    return f"{stem}-{number}"


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

    def give(self, folder: str, stem: str, extension: str) -> tuple[str, bool]:
        """Return (file name, whether it had to be numbered)."""
        key = f"{folder}/{stem}.{extension}".casefold()
        if key not in self._given:
            self._given.add(key)
            return f"{stem}.{extension}", False
        number = self._next.get(key, 2)
        while (tried := f"{folder}/{numbered(stem, number)}.{extension}".casefold()) in self._given:
            number += 1
        self._given.add(tried)
        self._next[key] = number + 1
        return f"{numbered(stem, number)}.{extension}", True
