"""Finished files as guests see them: drawn once, by a hand beside this process, kept in the cache."""

from __future__ import annotations

import hashlib
import os
import tempfile
from pathlib import Path

from server.guests.models import Item, Link
from server.http.connections import let_go
from server.http.problems import Problem
from server.photos.hands import hands
from server.project.conf import conf
from server.runs.models import Rendition
from tray_core import TrayError
from tray_core.limits import Limits
from tray_core.looks.handed import handed_copy

EDGE, SMALL = 1400, 480
"""Pixels of the long edge: of a picture that fills a screen, and of one in a gallery."""


def preview(link: Link, item: Item, small: bool) -> Path:
    """The file of a preview, made where it is not there yet. Problem where the finished file is gone."""
    row = item.rendition
    edge = SMALL if small else EDGE
    what = f"{(row.receipt or {}).get('sha256')} {edge} {link.stamp}"
    name = hashlib.sha256(what.encode()).hexdigest()
    path = conf.cache / "handed" / name[:2] / f"{name}.jpg"
    if not path.exists():
        let_go()
        _draw(row, edge, link.stamp, path)
    return path


def _draw(row: Rendition, edge: int, stamp: str, path: Path) -> None:
    try:
        data = hands.do(row.name, handed_copy, Path(row.path), edge, stamp, Limits())
    except TrayError as error:
        raise Problem(410, "The picture is gone", "It was moved or deleted. Ask whoever sent you the link.") from error
    path.parent.mkdir(parents=True, exist_ok=True)
    handle, part = tempfile.mkstemp(dir=path.parent, suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        Path(part).replace(path)
    except OSError:
        Path(part).unlink(missing_ok=True)
        raise
