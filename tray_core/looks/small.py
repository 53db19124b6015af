"""Small pictures of cells, several at once."""

from __future__ import annotations

from collections.abc import Iterable

from tray_core.errors import TrayError
from tray_core.line.preview import preview
from tray_core.plan import Plan


def previews(cells: Iterable[tuple[bytes, Plan, int, bool] | None]) -> list[bytes]:
    """What `preview` makes of each cell, by its arguments; an empty one where it is none, or cannot be shown."""
    made = []
    for cell in cells:
        try:
            made.append(preview(*cell) if cell else b"")
        except (TrayError, OSError):
            made.append(b"")
    return made
