"""What people type on the sheet: words above those of the files, which stay as they are."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple

import regex
from django.db import transaction

from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.runs.asking import take_in_answered
from server.trays.models import Tray
from tray_core.photo.words import NAMES, text_of, words_from_json
from tray_core.words.table import TableProblems, TableRow, read_table

MOST = 10_000
"""Photos of one change."""

PATIENCE = 0.05
"""Seconds that an expression may take over one text."""

Typed = Mapping[str, Any]


class Edit(NamedTuple):
    """A photo's typed words, all of them, as they are to be. version: the one that was changed; None for any."""

    photo: int
    typed: Typed
    version: int | None


class Before(NamedTuple):
    """What was typed of a photo before a change, to go back to. version: after it."""

    photo: int
    typed: Typed
    version: int


def _checked(typed: Typed) -> dict[str, Any]:
    """Typed words cleaned; a word typed as empty stays: it says that the photo has none."""
    try:
        found = words_from_json(typed)
    except (ValueError, TypeError, AttributeError) as error:
        raise Problem(422, "The words are not right", f"Expected words of a photo, found {error}.") from error
    values = {name: getattr(found, name) for name in typed}
    return {name: list(value) if isinstance(value, tuple) else value for name, value in values.items()}


@transaction.atomic
def keep(tray: Tray, edits: Iterable[Edit]) -> list[Before]:
    """Give photos of a tray exactly these typed words; all, or where one was changed meanwhile, none of them."""
    wanted = {edit.photo: edit for edit in edits}
    photos = Photo.objects.select_for_update(of=("self",)).filter(places__tray=tray, pk__in=list(wanted)).order_by("pk")
    found = list(photos)
    if len(found) < len(wanted):
        raise Problem(409, "A photo is gone", "A photo was taken out of the tray meanwhile. Load the sheet again.")
    return _write(tray, [(photo, wanted[photo.pk]) for photo in found])


def _write(tray: Tray, found: Iterable[tuple[Photo, Edit]]) -> list[Before]:
    before: list[Before] = []
    changed: list[Photo] = []
    for photo, edit in found:
        if edit.version is not None and edit.version != photo.typed_version:
            raise Problem(
                409,
                "Somebody else typed here",
                f"Expected the words of {photo.name} as you saw them, found newer ones. Look at them, then type again.",
            )
        typed = _checked(edit.typed)
        if typed != photo.typed:
            before.append(Before(photo.pk, photo.typed, photo.typed_version + 1))
            photo.typed, photo.typed_version = typed, photo.typed_version + 1
            changed.append(photo)
    Photo.objects.bulk_update(changed, ["typed", "typed_version"], batch_size=500)
    take_in_answered(changed)
    for number in Tray.objects.filter(places__photo__in=changed).distinct().values_list("pk", flat=True):
        hint(tray.studio_id, "tray", number)
    return before


@transaction.atomic
def take_table(tray: Tray, text: str) -> list[Before]:
    """Take words from a table, photo by photo, by their names or paths; nothing where any line is not right."""
    try:
        rows = read_table(text)
    except TableProblems as error:
        raise _not_right(error.problems) from error
    wanted = [row.photo for row in rows]
    names = [name.rpartition("/")[2] for name in wanted]
    photos = Photo.objects.select_for_update(of=("self",)).filter(places__tray=tray, name__in=names).order_by("pk")
    by_name: dict[str, list[Photo]] = {}
    for photo in photos:
        for key in (photo.name, f"{photo.folder}/{photo.name}", photo.path):
            by_name.setdefault(key, []).append(photo)
    problems: list[str] = []
    found: dict[int, tuple[Photo, Edit]] = {}
    for row in rows:
        here = {photo.pk: photo for photo in by_name.get(row.photo, ())}
        if len(here) != 1:
            seen = "none" if not here else f"{len(here)}; write its path"
            problems.append(f"Line {row.line}: expected one photo {row.photo} in the tray, found {seen}.")
            continue
        (photo,) = here.values()
        if photo.pk in found:
            problems.append(f"Line {row.line}: {row.photo} stands in a line before. Keep one of the two.")
        found[photo.pk] = photo, Edit(photo.pk, _taken(photo, row), None)
    if problems:
        raise _not_right(problems)
    return _write(tray, found.values())


def _taken(photo: Photo, row: TableRow) -> dict[str, Any]:
    """What is typed of a photo after a row was taken: cells that say what the file says are not typed."""
    said = words_from_json(photo.said)
    typed = dict(photo.typed)
    for name, value in row.words.items():
        if text_of(value) == text_of(getattr(said, name)):
            typed.pop(name, None)
        else:
            typed[name] = value
    return typed


def _not_right(problems: list[str]) -> Problem:
    fields = [{"field": "table", "expected": "", "found": problem, "remedy": ""} for problem in problems[:50]]
    return Problem(422, "Nothing was taken", " ".join(problems[:3]), fields)


def replacing(find: str, put: str, by_regex: bool, case: bool) -> Callable[[str], str]:
    """What find and replace does to one text; Problem for an expression that cannot be read or runs away."""
    flags = 0 if case else regex.IGNORECASE
    try:
        pattern = regex.compile(find if by_regex else re.escape(find), flags)
        put = put if by_regex else put.replace("\\", "\\\\")
        pattern.sub(put, "", timeout=PATIENCE)
    except (regex.error, IndexError) as error:
        detail = f"Expected an expression that can be read, found {find!r} ({error}). Correct it, or find plain text."
        raise Problem(422, "The expression is not right", detail) from error

    def replaced(text: str) -> str:
        try:
            return pattern.sub(put, text, timeout=PATIENCE)
        except TimeoutError as error:
            detail = "Expected an expression that is soon done, found one that runs away. Make it simpler."
            raise Problem(422, "The expression takes too long", detail) from error

    return replaced


@transaction.atomic
def replace_words(tray: Tray, photos: list[int], names: list[str], replaced: Callable[[str], str]) -> list[Before]:
    """Find and replace in some words of some photos of a tray."""
    rows = Photo.objects.select_for_update(of=("self",)).filter(places__tray=tray, pk__in=photos).order_by("pk")
    found: list[tuple[Photo, Edit]] = []
    for photo in rows:
        words, typed = photo.words, dict(photo.typed)
        for name in names:
            old: str | tuple[str, ...] = getattr(words, name)
            new = [replaced(each) for each in old] if isinstance(old, tuple) else replaced(old)
            if (list(old) if isinstance(old, tuple) else old) != new:
                typed[name] = new
        found.append((photo, Edit(photo.pk, typed, None)))
    return _write(tray, found)


def known(names: Iterable[str]) -> list[str]:
    """The same names of words; Problem for any other."""
    names = list(names)
    for name in names:
        if name not in NAMES:
            raise Problem(422, "No such word", f"Expected one of {', '.join(NAMES)}, found {name!r}.")
    return names
