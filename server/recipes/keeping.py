"""Files that recipes name: kept under a name of their own, and never changed."""

from __future__ import annotations

from pathlib import Path


def keep_file(folder: Path, stem: str, ending: str, data: bytes) -> tuple[Path, bool]:
    """Keep `data` in a folder; gives its path, and whether it is new there.

    One of the same name and other content gets a number: what a recipe names never changes.
    """
    folder.mkdir(parents=True, exist_ok=True)
    number = 1
    while True:
        path = folder / (f"{stem}.{ending}" if number == 1 else f"{stem} {number}.{ending}")
        try:
            with path.open("xb") as made:
                made.write(data)
        except FileExistsError:
            if path.read_bytes() != data:
                number += 1
                continue
            return path, False
        return path, True
