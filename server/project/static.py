"""How long browsers keep the front end's files."""

from __future__ import annotations

import re
from typing import Any

# Vite puts eight characters of the content's hash into names, so these files never change.
_HASHED = re.compile(r"-[A-Za-z0-9_-]{8}\.\w+$")


def add_headers(headers: Any, path: str, url: str) -> None:
    """Let a file whose name changes with its content be kept for ever."""
    if _HASHED.search(url):
        headers["Cache-Control"] = "max-age=31536000, public, immutable"
