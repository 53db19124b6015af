"""Patterns of names and texts: Python's format syntax over a closed set of fields, and nothing else of it.

Attribute access, indexing, conversions and nested fields are refused, and so are widths that would
make names of thousands of characters. Where a photo may lack a word, another field can stand in for it:
{title or stem}.
"""

from __future__ import annotations

import functools
import re
import string

from tray_core.photo.words import NAMES

FIELDS = (
    *("stem", "title", "creator", "original", "recipe", "shelf", "outlet", "n", "panel"),
    *("width", "height", "ratio", "date", "tray", "folder"),
)
"""The fields of file names and subfolders."""

WORDS = ("title", "creator")
"""Those of them that a photo may lack."""

TEXT_FIELDS = (*FIELDS, *(name for name in NAMES if name not in FIELDS))
"""The fields of texts inside a file: a photo's other words too."""

NUMBERS = ("n", "panel", "width", "height")
_NUMBER_SPEC = re.compile(r"0?\d{0,2}d?")
_DATE_SPEC = re.compile(r"(?:%[YmdHMSjyBbAaUVGu]|[^%{}/\\:])*")
_FORBIDDEN = re.compile(r'[\\:*?"<>|\x00-\x1f\x7f]')
_OR = re.compile(r"\s+or\s+")

Piece = tuple[str, tuple[str, ...], str]
"""Literal text, the fields of which the first that has a value stands behind it (none at the end), and their format."""


@functools.lru_cache(maxsize=1024)
def parse_pattern(pattern: str) -> tuple[Piece, ...]:
    """Split the pattern of a name into its pieces; ValueError says what is wrong."""
    for literal, _, _ in (found := _pieces(pattern, FIELDS)):
        if _FORBIDDEN.search(literal):
            raise ValueError(f"{literal!r}, which has a character that file names cannot have; leave it out")
    return found


@functools.lru_cache(maxsize=1024)
def parse_text_pattern(pattern: str) -> tuple[Piece, ...]:
    """The same of a text, which may hold any character and tell all words."""
    return _pieces(pattern, TEXT_FIELDS)


def _pieces(pattern: str, known: tuple[str, ...]) -> tuple[Piece, ...]:
    try:
        parsed = list(string.Formatter().parse(pattern))
    except ValueError as error:
        raise ValueError(f"braces that do not pair up ({error}); write {{{{ and }}}} for plain braces") from error
    pieces: list[Piece] = []
    for literal, field, spec, conversion in parsed:
        fields = () if field is None else tuple(_OR.split(field.strip()))
        for each in fields:
            _check_field(each, spec or "" if each == fields[0] else "", conversion, known)
        pieces.append((literal, fields, spec or ""))
    return tuple(pieces)


def _check_field(field: str, spec: str, conversion: str | None, fields: tuple[str, ...]) -> None:
    known = ", ".join(f"{{{name}}}" for name in fields)
    if field not in fields:
        raise ValueError(f"an unknown field {{{field}}}; the fields are {known}")
    if conversion:
        raise ValueError(f"a conversion !{conversion} in {{{field}}}; leave it out")
    if field in NUMBERS:
        if not _NUMBER_SPEC.fullmatch(spec):
            raise ValueError(f"a format {spec!r} in {{{field}}}; write for example {{{field}:03}}")
    elif field == "date":
        if not _DATE_SPEC.fullmatch(spec):
            raise ValueError(f"a date format {spec!r}; write for example {{date:%Y-%m-%d}}")
    elif spec:
        raise ValueError(f"a format {spec!r} in {{{field}}}, which is text; leave it out")


def fields_in(pattern: str) -> frozenset[str]:
    """The names of all fields that a checked pattern has."""
    return frozenset(field for _, fields, _ in parse_text_pattern(pattern) for field in fields)


def check_text_pattern(pattern: str) -> None:
    """ValueError unless `pattern` can be filled as a text."""
    parse_text_pattern(pattern)


def check_file_pattern(pattern: str) -> None:
    """ValueError unless `pattern` can name a file."""
    for literal, _, _ in parse_pattern(pattern):
        if "/" in literal:
            raise ValueError("a slash, which would make a folder; folders belong to the place station")


def check_folder_pattern(pattern: str) -> None:
    """ValueError unless `pattern` can name a folder below another; slashes part its levels."""
    if pattern.startswith("/"):
        raise ValueError("a leading slash; a subfolder lies below the output root")
    for segment in pattern.split("/"):
        parse_pattern(segment)
        if segment.strip() in (".", ".."):
            raise ValueError(f"the step {segment!r}; a subfolder lies below the output root")
