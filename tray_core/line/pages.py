"""Pages beside finished files: an index.html to open, and a pictures.json for a site generator."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

from tray_core.line.write import put
from tray_core.markup.picture import Drawn, as_html, as_json

_PAGE, _DATA = "index.html", "pictures.json"
_OURS = b'<meta name="generator" content="Upper Tray">'


def write_pages(folder: Path, drawn: Sequence[Drawn], title: str) -> Path:
    """Write both into `folder`, and return the page's path.

    An earlier page of ours is replaced, with its data; where somebody else has an index.html, both get new names.
    PlaceError as `put` raises it.
    """
    ours = _is_ours(folder / _PAGE)
    taken = "replace" if ours else "new-name"
    page = put(as_html(drawn, title, page=True).encode(), folder, _PAGE, taken, ())
    data = json.dumps(as_json(drawn), indent=2, ensure_ascii=False) + "\n"
    put(data.encode(), folder, _DATA, taken, ())
    assert page is not None
    return page


def _is_ours(page: Path) -> bool:
    try:
        with page.open("rb") as file:
            return _OURS in file.read(1000)
    except OSError:
        return False
