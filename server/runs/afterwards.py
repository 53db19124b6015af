"""What recipes ask for once a run is made: a zip, a page beside the files, contact sheets, the folder shown."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from django.db import transaction

from server.http.connections import let_go
from server.live.hub import hint
from server.runs import manifest
from server.runs.models import Rendition, Run
from server.runs.places import base_of
from server.runs.steps import FROM_ABOVE, Step, Way
from tray_core import Recipe, TrayError
from tray_core.line.pages import write_pages
from tray_core.line.sheets import Piece, write_sheets
from tray_core.line.write import PART
from tray_core.recipe.place import Sheets


def wanted(recipes: Sequence[tuple[int, Recipe]]) -> list[dict[str, Any]]:
    """The steps of a run, by what they do; recipes that ask for the same share one. recipes: with their numbers."""
    steps: dict[str, dict[str, Any]] = {}
    for number, recipe in recipes:
        for step in recipe.place.afterwards:
            sheets = step.model_dump(mode="json") if isinstance(step, Sheets) else {}
            to = getattr(step, "to", "")
            plain: dict[str, Any] = {"do": step.do, "recipes": [], "sizes": "", "sheets": sheets, "to": to}
            told = steps.setdefault(f"{step.do} {sheets} {to}", plain)
            told["recipes"].append(number)
            told["sizes"] = told["sizes"] or getattr(step, "sizes", "")
    return list(steps.values())


def do(run_id: int) -> None:
    """Do all steps of a run that is over; one that fails leaves the others alone."""
    run = Run.objects.select_related("studio").get(pk=run_id)
    done = []
    for step in run.afterwards:
        rows, _ = manifest.finished(run, manifest.of_recipes(step["recipes"]))
        let_go()
        paths, error = [], ""
        try:
            paths = (_WAYS | FROM_ABOVE)[step["do"]](run, rows, step) if rows else []
        except TrayError as wrong:
            error = str(wrong)
        except OSError as wrong:
            found = (wrong.strerror or "an error").lower()
            error = f"{run.studio.output}: expected a folder that can be written, found {found}. Free some space there."
        done.append({**step, "paths": [str(path) for path in paths], "error": error})
    with transaction.atomic():
        Run.objects.filter(pk=run.pk).update(afterwards=done)
        hint(run.studio_id, "run", run.pk)


def _zip(run: Run, rows: list[Rendition], step: Step) -> list[Path]:
    folder = run.studio.output
    target = folder / manifest.zip_name(run)
    part = folder / f".run-{run.pk}{PART}"  # the same at each try: what a killed worker left is written over
    folder.mkdir(parents=True, exist_ok=True)
    archive = manifest.archive(run, rows)
    let_go()
    try:
        with part.open("wb") as file:
            for piece in archive:
                file.write(piece)
            os.fsync(file.fileno())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    return [target]


def _by_folder(rows: list[Rendition]) -> dict[Path, list[Rendition]]:
    found: dict[Path, list[Rendition]] = {}
    for row in rows:
        found.setdefault(Path(row.path).parent, []).append(row)
    return found


def _pages(run: Run, rows: list[Rendition], step: Step) -> list[Path]:
    return [
        write_pages(folder, manifest.drawn([(Path(row.path).name, row) for row in found], step["sizes"]), run.tray_name)
        for folder, found in _by_folder(rows).items()
    ]


def _sheets(run: Run, rows: list[Rendition], step: Step) -> list[Path]:
    sheets = Sheets.model_validate(step["sheets"])
    laid = {
        folder: [Piece(Path(row.path), row.photo.words.title) for row in found]
        for folder, found in _by_folder(rows).items()
    }
    let_go()
    return [path for folder, pieces in laid.items() for path in write_sheets(folder, pieces, sheets, run.tray_name)]


def _folders(run: Run, rows: list[Rendition], step: Step) -> list[Path]:
    return sorted({base_of(run, row.photo, row) / row.folder for row in rows})[:20]


_WAYS: dict[str, Way] = {"zip": _zip, "markup": _pages, "sheets": _sheets, "path": _folders}
