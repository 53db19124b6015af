"""A run as a zip: its finished files, a manifest of them as CSV and JSON, and a page that shows them."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Iterable, Iterator, Mapping
from pathlib import Path
from typing import Any

from django.db.models import QuerySet
from zipstream import ZIP_STORED, ZipStream

from server.runs import files
from server.runs.models import Rendition, Run
from server.runs.places import folder_in_zip
from tray_core.markup import Drawn, Piece, as_html, as_json, pictures
from tray_core.plan.naming import safe_text

Rows = QuerySet[Rendition]

_WORDS = ("title", "alt")
_RECEIPT = ("width", "height", "bytes", "format", "profile", "metadata", "sha256", "differences", "notes")
FIELDS = ("file", "photo", "recipe", *_WORDS, *_RECEIPT)


def members(rows: Iterable[Rendition]) -> Iterator[tuple[str, Rendition]]:
    """Renditions with their unique paths in the archive."""
    given: set[str] = set()
    for row in rows:
        path = Path(row.path)
        folder = folder_in_zip(row)
        name = f"{folder}/{path.name}" if folder else path.name
        number = 2
        while name.casefold() in given:
            name = f"{folder}/{path.stem}-{number}{path.suffix}" if folder else f"{path.stem}-{number}{path.suffix}"
            number += 1
        given.add(name.casefold())
        yield name, row


def manifest_line(name: str, row: Rendition) -> dict[str, Any]:
    """One file of the manifest: what its receipt says, and where it comes from."""
    receipt = row.receipt or {}
    words = row.photo.words
    return {
        "file": name,
        "photo": row.photo.name,
        "recipe": row.recipe.title,
        **{word: getattr(words, word) for word in _WORDS},
        **{field: receipt.get(field) for field in _RECEIPT},
    }


def finished(run: Run, of: Callable[[Rows], Rows] | None = None) -> tuple[list[Rendition], list[str]]:
    """(files of a run that are there, sentences on those that are not). of: picks some of its rows."""
    rows = run.renditions.filter(state=Rendition.State.MADE).select_related("photo__root", "recipe", "version")
    found = list(rows if of is None else of(rows))
    files.look_at(found)
    lost = [f"{row.photo.name}, {row.recipe.title}: {row.name} is {row.lost}" for row in found if row.lost]
    return [row for row in found if not row.lost], lost


def of_recipes(recipes: Iterable[int]) -> Callable[[Rows], Rows]:
    """Picks the rows of these."""
    wanted = list(recipes)
    return lambda rows: rows.filter(recipe__in=wanted)


def drawn(named: Iterable[tuple[str, Rendition]], sizes: str, media: Mapping[int, str] | None = None) -> list[Drawn]:
    """The picture elements of finished files. named: with their paths from the page's folder. media: of recipes."""
    pieces = []
    for path, row in named:
        receipt, words = row.receipt or {}, row.photo.words
        pieces.append(
            Piece(
                photo=f"{row.photo.folder}/{row.photo.name}",
                path=path,
                format=str(receipt.get("format", "")).lower(),
                width=receipt.get("width", 0),
                height=receipt.get("height", 0),
                alt=words.alt or words.title,
                title=words.title,
                media=(media or {}).get(row.recipe_id, ""),
            )
        )
    return pictures(pieces, sizes)


def markup(run: Run, kind: str, sizes: str, media: Mapping[int, str] | None) -> tuple[str, str]:
    """(text, what it is) of a run's markup: html for elements alone, page for a page, json for a site generator.

    media: the recipes of a set, each with the media condition of its screens; None for all.
    """
    found, _ = finished(run, of_recipes(media) if media is not None else None)
    elements = drawn(members(found), sizes, media)
    if kind == "json":
        return json.dumps(as_json(elements), indent=2, ensure_ascii=False) + "\n", "application/json"
    return as_html(elements, run.tray_name, page=kind == "page"), "text/html; charset=utf-8"


def zip_name(run: Run) -> str:
    """What a run's zip is called."""
    return f"{safe_text(run.tray_name)}-{run.started:%Y-%m-%d}-run-{run.pk}.zip"


def archive(run: Run, rows: list[Rendition], missing: list[str] | None = None) -> ZipStream:
    """The archive, made as it is read; pictures are compressed already and are stored as they are.

    rows, missing: as `finished` finds them.
    """
    made = ZipStream(compress_type=ZIP_STORED, sized=True)
    named = list(members(rows))
    for name, row in named:
        made.add_path(row.path, name)
    made.add(as_table(named), "manifest.csv")
    if missing:
        made.add(
            "\n".join(("These files were changed since they were made, or are gone:", *missing)).encode(), "MISSING.txt"
        )
    if elements := drawn(named, ""):
        made.add(as_html(elements, run.tray_name, page=True).encode(), "index.html")
    made.add(as_record(run, named, missing or []), "manifest.json")
    return made


def as_table(named: Iterable[tuple[str, Rendition]]) -> bytes:
    """The manifest for spreadsheets."""
    table = io.StringIO()
    writer = csv.DictWriter(table, FIELDS)
    writer.writeheader()
    for name, row in named:
        writer.writerow({key: _cell(value) for key, value in manifest_line(name, row).items()})
    # A mark at the front tells spreadsheet programs that the text is UTF-8.
    return table.getvalue().encode("utf-8-sig")


def as_record(run: Run, named: Iterable[tuple[str, Rendition]], missing: list[str]) -> bytes:
    """The manifest for programs."""
    about = {
        "run": run.pk,
        "tray": run.tray_name,
        "started": run.started.isoformat(),
        "files": [manifest_line(name, row) for name, row in named],
        "missing": missing,
    }
    return json.dumps(about, indent=2, ensure_ascii=False).encode()


def _cell(value: Any) -> Any:
    """A value for a spreadsheet: lists as text, and nothing that it would run as a formula."""
    if isinstance(value, list):
        value = "; ".join(value)
    return f"'{value}" if isinstance(value, str) and value.startswith(("=", "+", "-", "@")) else value
