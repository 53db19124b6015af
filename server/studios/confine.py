"""Paths stay below their root: links are resolved first, then compared."""

from __future__ import annotations

from pathlib import Path

from server.http.problems import Problem
from server.studios.models import Root


def below(root: Root, relative: str) -> Path:
    """The path `relative` below `root`, links resolved; Problem (404) for anything outside or gone."""
    folder = root.folder
    try:
        path = (folder / relative).resolve(strict=True)
    except (OSError, ValueError, RuntimeError) as error:
        raise Problem(404, "Not there", f"{root.name}/{relative}: nothing there. Was it moved or renamed?") from error
    if path != folder and folder not in path.parents:
        raise Problem(404, "Not there", f"{root.name}/{relative}: outside the folder {root.name}.")
    return path
