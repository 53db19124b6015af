"""Name patterns: Python's format syntax over a closed set of fields, and nothing else of it.

Attribute access, indexing, conversions and nested fields are refused, and so are widths that would
make names of thousands of characters.
"""

from __future__ import annotations

import functools
import re
import string

FIELDS = ("stem", "recipe", "shelf", "n", "panel", "width", "height", "ratio", "date", "tray", "folder")
"""The fields of file names and subfolders."""

_NUMBERS = ("n", "panel", "width", "height")
_NUMBER_SPEC = re.compile(r"0?\d{0,2}d?")
_DATE_SPEC = re.compile(r"(?:%[YmdHMSjyBbAaUVGu]|[^%{}/\\:])*")
_FORBIDDEN = re.compile(r'[\\:*?"<>|\x00-\x1f\x7f]')


@functools.lru_cache(maxsize=1024)
def parse_pattern(pattern: str) -> tuple[tuple[str, str | None, str], ...]:
    """Split `pattern` into (literal text, field or None, format spec); ValueError says what is wrong."""
    try:
        parsed = list(string.Formatter().parse(pattern))
    except ValueError as error:
        raise ValueError(f"braces that do not pair up ({error}); write {{{{ and }}}} for plain braces") from error
    parts: list[tuple[str, str | None, str]] = []
    for literal, field, spec, conversion in parsed:
        if _FORBIDDEN.search(literal):
            raise ValueError(f"{literal!r}, which has a character that file names cannot have; leave it out")
        if field is not None:
            _check_field(field, spec or "", conversion)
        parts.append((literal, field, spec or ""))
    return tuple(parts)


def _check_field(field: str, spec: str, conversion: str | None) -> None:
    known = ", ".join(f"{{{name}}}" for name in FIELDS)
    if field not in FIELDS:
        raise ValueError(f"an unknown field {{{field}}}; the fields are {known}")
    if conversion:
        raise ValueError(f"a conversion !{conversion} in {{{field}}}; leave it out")
    if field in _NUMBERS:
        if not _NUMBER_SPEC.fullmatch(spec):
            raise ValueError(f"a format {spec!r} in {{{field}}}; write for example {{{field}:03}}")
    elif field == "date":
        if not _DATE_SPEC.fullmatch(spec):
            raise ValueError(f"a date format {spec!r}; write for example {{date:%Y-%m-%d}}")
    elif spec:
        raise ValueError(f"a format {spec!r} in {{{field}}}, which is text; leave it out")


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
