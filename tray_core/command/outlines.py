"""Outlines of objects on the command line: looked for, and printed as `--outlines` takes them."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence

from tray_core.errors import TrayError
from tray_core.limits import Limits
from tray_core.looks import outline_in
from tray_core.photo import find_photos


def outlines_command(paths: Sequence[str], limits: Limits, tell: Callable[[str], None]) -> bool:
    """Print one JSON object with the outlines that are found, by the photos' names, and tell what is doubtful; whether
    all photos could be read. Where two have one name, they go by their paths.
    """
    whole, found = True, {}
    photos = list(find_photos(paths))
    names = [path.name for path, _ in photos]
    for path, error in photos:
        try:
            if error is not None:
                raise error
            there = outline_in(path, limits)
        except TrayError as wrong:
            tell(str(wrong))
            whole = False
            continue
        for why in there.why:
            tell(f"{path}: {why}")
        if not there.outline.empty:
            found[path.name if names.count(path.name) == 1 else str(path)] = there.outline.to_json()
    print(json.dumps(found, ensure_ascii=False))
    return whole
