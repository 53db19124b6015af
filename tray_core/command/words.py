"""The words of photos on the command line: printing what files say, and taking what a table says above it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from tray_core.errors import TrayError
from tray_core.limits import Limits
from tray_core.photo import PhotoFacts, read_bytes
from tray_core.photo.sniff import HEAD, READ, sniff
from tray_core.photo.words import NAMES, Words, typed_over
from tray_core.words import read_words, sidecar_bytes
from tray_core.words.table import TableProblems, decoded_table, read_table

Tell = Callable[[str], None]


def words_line(path: Path, limits: Limits) -> tuple[dict[str, Any], bool]:
    """(What one file says, as one object; whether it could be read)."""
    try:
        data = read_bytes(path, limits)
        kind = sniff(data[:HEAD])
        if kind not in READ:
            raise TrayError(
                str(path),
                expected="a picture, drawing, page or raw file that can be read",
                found=kind,
                remedy="Leave it out.",
            )
        said = read_words(data, kind, sidecar_bytes(path))
    except TrayError as error:
        return {"photo": str(path), **_plain(Words()), "from": {}, "error": str(error)}, False
    line = {"photo": str(path), **_plain(said.words), "from": dict(said.origin)}
    return (line | {"cautions": list(said.unread)} if said.unread else line), True


def _plain(words: Words) -> dict[str, Any]:
    return {name: getattr(words, name) for name in NAMES}


class Table:
    """What `--words` says, by the names or paths of photos."""

    def __init__(self, typed: Mapping[str, Mapping[str, Any]]) -> None:
        self._typed = dict(typed)
        self._unused = set(typed)

    def over(self, facts: PhotoFacts) -> PhotoFacts:
        """The facts with the words that the table has for the photo, by its path or else by its name."""
        for key in (facts.path, Path(facts.path).name):
            if key in self._typed:
                self._unused.discard(key)
                return replace(facts, words=typed_over(facts.words, self._typed[key]))
        return facts

    def tell_unused(self, tell: Tell) -> None:
        """Name the lines that were of no photo."""
        for key in sorted(self._unused):
            tell(f"words: {key}: expected one of these photos, found none of this name. Its line is not used.")


def read_words_file(path: str | None, tell: Tell) -> Table | None:
    """The table at `path`, an empty one for no path; None after telling what is wrong with it."""
    if path is None:
        return Table({})
    try:
        rows = read_table(decoded_table(Path(path).read_bytes()))
    except OSError as error:
        tell(f"words: {path}: expected a CSV file, found {(error.strerror or 'an error').lower()}. Check the path.")
        return None
    except TableProblems as error:
        for problem in error.problems:
            tell(f"words: {path}: {problem}")
        return None
    # A cell that is empty says nothing here: tables are rarely filled everywhere.
    return Table({row.photo: {name: value for name, value in row.words.items() if value} for row in rows})


def words_command(paths: Sequence[str], limits: Limits, say: Callable[[dict[str, Any]], None]) -> bool:
    """Print what each file says; whether all could be read."""
    whole = True
    for path in paths:
        line, read = words_line(Path(path), limits)
        say(line)
        whole &= read
    return whole
