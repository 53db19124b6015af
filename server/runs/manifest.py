"""A run as a zip: its finished files, and a manifest of them as CSV and JSON."""

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
from tray_core.plan.naming import safe_text

FIELDS = ("file", "photo", "recipe", "width", "height", "bytes", "format", "profile", "sha256", "differences", "notes")


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
    return {"file": name, "photo": row.photo.name, "recipe": row.recipe.title} | {
        field: receipt.get(field) for field in FIELDS[3:]
    }


def archive(run: Run) -> ZipStream:
    """The archive, made as it is read; pictures are compressed already and are stored as they are."""
    made = ZipStream(compress_type=ZIP_STORED, sized=True)
    lines = []
    rows = list(run.renditions.filter(state=Rendition.State.MADE).select_related("photo", "recipe", "version"))
    files.look_at(rows)
    missing = [f"{row.photo.name}, {row.recipe.title}: {row.name} is {row.lost}" for row in rows if row.lost]
    for name, row in members(row for row in rows if not row.lost):
        made.add_path(row.path, name)
        lines.append(manifest_line(name, row))
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
    made.add(json.dumps(about, indent=2, ensure_ascii=False).encode(), "manifest.json")
    return made


def _cell(value: Any) -> Any:
    """A value for a spreadsheet: lists as text, and nothing that it would run as a formula."""
    if isinstance(value, list):
        value = "; ".join(value)
    return f"'{value}" if isinstance(value, str) and value.startswith(("=", "+", "-", "@")) else value
