"""Words as a table: CSV and what spreadsheets put on the clipboard, a row for each photo."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from tray_core.photo.words import LISTS, NAMES, Words, clean_text, list_from_text, text_of

COLUMNS = ("photo", *NAMES, "from")
"""photo: its name or path. from: where its words come from, which reading passes over."""

_FORMULA = ("=", "+", "-", "@")
_LONGEST_CELL = 100_000
_MOST_ROWS = 100_000


class TableProblems(ValueError):
    """What is wrong with a table, a sentence for each place; nothing of it is taken then."""

    def __init__(self, problems: list[str]) -> None:
        super().__init__(problems[0])
        self.problems = problems


@dataclass(frozen=True, slots=True)
class TableRow:
    """line: in the file, from 1. photo: a name or path. words: what is in its cells, also where that is nothing."""

    line: int
    photo: str
    words: Mapping[str, str | list[str]]


def decoded_table(data: bytes) -> str:
    """The text of a table's file: UTF-8, or UTF-16 with its mark; TableProblems for anything else."""
    encoding = "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise TableProblems(
            [f"Line {line}: expected UTF-8 text, found other bytes. Save the table as CSV in UTF-8."]
        ) from error


def read_table(text: str) -> list[TableRow]:
    """The rows of a table with a line of headings; commas, semicolons or tabs between its cells.

    Raises TableProblems that name every wrong line: unknown headings, photos that stand there twice, cells too many.
    """
    heading = text.lstrip("\r\n").split("\n", 1)[0]
    delimiter = max(",;\t", key=heading.count)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    problems: list[str] = []
    rows: list[TableRow] = []
    seen: dict[str, int] = {}
    columns: list[str] = []
    try:
        for cells in reader:
            if not any(cell.strip() for cell in cells):
                continue
            if not columns:
                columns = [cell.strip().lower() for cell in cells]
                problems += _heading_problems(columns, reader.line_num)
                if problems:
                    break
                continue
            line = reader.line_num
            if len(cells) > len(columns):
                problems.append(
                    f"Line {line}: expected {len(columns)} cells, found {len(cells)}. Quote texts with commas."
                )
                continue
            found = dict(zip(columns, cells, strict=False))
            photo = found.pop("photo").strip()
            found.pop("from", None)
            if not photo:
                problems.append(
                    f"Line {line}: expected the name of a photo, found nothing. Write it, or remove the line."
                )
            elif photo in seen:
                problems.append(f"Line {line}: {photo} stands in line {seen[photo]} already. Keep one of the two.")
            seen[photo] = line
            rows.append(TableRow(line, photo, {name: _typed(name, cell) for name, cell in found.items()}))
            if len(rows) > _MOST_ROWS or len(problems) > 50:
                break
    except csv.Error as error:
        problems.append(f"Line {reader.line_num}: expected a table, found something else ({error}). Save it as CSV.")
    if not columns and not problems:
        problems.append(
            "Line 1: expected headings such as photo,title,alt, found nothing. Write them in the first line."
        )
    if problems:
        raise TableProblems(problems)
    return rows


def _heading_problems(columns: list[str], line: int) -> Iterator[str]:
    known = ", ".join(COLUMNS)
    if "photo" not in columns:
        yield f"Line {line}: expected a column photo, found none. It says which photo each line is of."
    for column in dict.fromkeys(columns):
        if column not in COLUMNS:
            yield f"Line {line}: expected known columns, found {column!r}. They are {known}."
        elif columns.count(column) > 1:
            yield f"Line {line}: expected each column once, found {column} twice. Remove one of them."


def _typed(name: str, cell: str) -> str | list[str]:
    """A cell as a word. Texts that spreadsheets would take for formulas stand behind an apostrophe there."""
    text = cell[1:] if cell.startswith("'") and cell[1:].startswith(_FORMULA) else cell
    return list(list_from_text(text)) if name in LISTS else clean_text(text[:_LONGEST_CELL])


def write_table(rows: Iterable[tuple[str, Words, Mapping[str, str]]]) -> Iterator[str]:
    """CSV with a line of headings, piece by piece: (photo, words, where each comes from)."""
    buffer = io.StringIO(newline="")
    writer = csv.writer(buffer)
    writer.writerow(COLUMNS)
    for photo, words, origin in rows:
        told = "; ".join(f"{name}: {source}" for name, source in origin.items())
        writer.writerow([_safe(cell) for cell in (photo, *(text_of(getattr(words, name)) for name in NAMES), told)])
        yield buffer.getvalue()
        buffer.seek(0)
        buffer.truncate()
    yield buffer.getvalue()


def _safe(cell: str) -> str:
    return f"'{cell}" if cell.startswith(_FORMULA) else cell
