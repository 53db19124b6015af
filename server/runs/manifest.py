"""A run as a zip: its finished files, a manifest of them as CSV and JSON, and a page that shows them."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from zipstream import ZIP_STORED, ZipStream

from server.runs import files
from server.runs.models import Rendition, Run
from tray_core.markup import Drawn, Piece, as_html, as_json, pictures
from tray_core.plan.naming import safe_text

_WORDS = ("title", "alt")
_RECEIPT = ("width", "height", "bytes", "format", "profile", "metadata", "sha256", "differences", "notes")
FIELDS = ("file", "photo", "recipe", *_WORDS, *_RECEIPT)


def members(rows: Iterable[Rendition]) -> Iterator[tuple[str, Rendition]]:
    """Renditions with their unique paths in the archive."""
    given: set[str] = set()
    for row in rows:
        path = Path(row.path)
        folder = row.folder if row.version.content["place"]["to"] == "output" else safe_text(row.recipe.title)
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


def finished(run: Run, recipes: list[int] | None = None) -> tuple[list[Rendition], list[str]]:
    """(files of a run that are there, sentences on those that are not). recipes: of these alone."""
    rows = run.renditions.filter(state=Rendition.State.MADE).select_related("photo", "recipe", "version")
    found = list(rows if recipes is None else rows.filter(recipe__in=recipes))
    files.look_at(found)
    lost = [f"{row.photo.name}, {row.recipe.title}: {row.name} is {row.lost}" for row in found if row.lost]
    return [row for row in found if not row.lost], lost


def drawn(named: Iterable[tuple[str, Rendition]], sizes: str) -> list[Drawn]:
    """The picture elements of finished files. named: with their paths from the page's folder."""
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
            )
        )
    return pictures(pieces, sizes)


def markup(run: Run, kind: str, sizes: str, recipes: list[int] | None) -> tuple[str, str]:
    """(text, what it is) of a run's markup: html for elements alone, page for a page, json for a site generator."""
    found, _ = finished(run, recipes)
    elements = drawn(members(found), sizes)
    if kind == "json":
        return json.dumps(as_json(elements), indent=2, ensure_ascii=False) + "\n", "application/json"
    return as_html(elements, run.tray_name, page=kind == "page"), "text/html; charset=utf-8"


def archive(run: Run) -> ZipStream:
    """The archive, made as it is read; pictures are compressed already and are stored as they are."""
    made = ZipStream(compress_type=ZIP_STORED, sized=True)
    rows, missing = finished(run)
    named = list(members(rows))
    for name, row in named:
        made.add_path(row.path, name)
    lines = [manifest_line(name, row) for name, row in named]
    table = io.StringIO()
    writer = csv.DictWriter(table, FIELDS)
    writer.writeheader()
    for line in lines:
        writer.writerow({key: _cell(value) for key, value in line.items()})
    about = {
        "run": run.pk,
        "tray": run.tray_name,
        "started": run.started.isoformat(),
        "files": lines,
        "missing": missing,
    }
    # A mark at the front tells spreadsheet programs that the text is UTF-8.
    made.add(table.getvalue().encode("utf-8-sig"), "manifest.csv")
    if missing:
        made.add(
            "\n".join(("These files were changed since they were made, or are gone:", *missing)).encode(), "MISSING.txt"
        )
    if elements := drawn(named, ""):
        made.add(as_html(elements, run.tray_name, page=True).encode(), "index.html")
    made.add(json.dumps(about, indent=2, ensure_ascii=False).encode(), "manifest.json")
    return made


def _cell(value: Any) -> Any:
    """A value for a spreadsheet: lists as text, and nothing that it would run as a formula."""
    if isinstance(value, list):
        value = "; ".join(value)
    return f"'{value}" if isinstance(value, str) and value.startswith(("=", "+", "-", "@")) else value
