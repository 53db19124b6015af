"""What became of the files that were made: still the ones of their receipts, changed since, or gone."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable

from server.runs.models import Rendition

TEXTS = {
    Rendition.Lost.GONE: "Expected the file where it was put, found nothing there. Make it again, or bring it back.",
    Rendition.Lost.CHANGED: "Expected the file that was made, found another one or a changed one. Make it again.",
}
_GRACE = 2
"""Seconds: files and rows are dated by different clocks, and a file's row is written just after it."""


def look(row: Rendition) -> str:
    """Whether the file of a made rendition is lost, as `Rendition.Lost`: by identity, size and date, and where these
    differ, as after a backup was put back, by its content.
    """
    receipt = row.receipt or {}
    try:
        info = os.stat(row.path)
        if info.st_size != receipt.get("bytes"):
            return Rendition.Lost.CHANGED
        late = row.finished is not None and info.st_mtime > row.finished.timestamp() + _GRACE
        if (info.st_dev, info.st_ino) == (row.claim_device, row.claim_inode) and not late:
            return ""
        with open(row.path, "rb") as file:
            same = hashlib.file_digest(file, "sha256").hexdigest() == receipt.get("sha256")
    except OSError:
        return Rendition.Lost.GONE
    return "" if same else Rendition.Lost.CHANGED


def look_at(rows: Iterable[Rendition]) -> list[Rendition]:
    """Note what became of the files of made renditions; returns those of which that is new."""
    fresh = []
    for row in rows:
        if row.state == Rendition.State.MADE and (lost := look(row)) != row.lost:
            row.lost = lost
            fresh.append(row)
    Rendition.objects.bulk_update(fresh, ["lost"], batch_size=1000)
    return fresh
