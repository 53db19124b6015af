"""What recipes ask for once all is made, of the command line's renditions: zips, pages,
contact sheets, paths."""

from __future__ import annotations

import zipfile
from collections.abc import Callable, Iterator, Sequence
from itertools import count
from pathlib import Path

from tray_core.command.markup import piece_of
from tray_core.errors import PlaceError
from tray_core.line import Outcome
from tray_core.line.pages import write_pages
from tray_core.line.sheets import Piece, write_sheets
from tray_core.markup import pictures
from tray_core.recipe.place import Sheets

Tell = Callable[[str], None]


def do_afterwards(root: Path, outcomes: Sequence[Outcome], tell: Tell) -> bool:
    """Do all of it, and say what was done; whether all could be. outcomes: of the whole call. root: of its output."""
    pages: dict[Path, list[Outcome]] = {}
    sizes: dict[Path, str] = {}
    laid: dict[tuple[Path, Sheets], list[Piece]] = {}
    zipped: list[Path] = []
    shown: dict[Path, None] = {}
    unsent: dict[str, None] = {}
    for outcome in sorted(outcomes, key=lambda each: (each.plan.number, each.plan.recipe.title, each.plan.part)):
        if outcome.path is None or outcome.receipt is None:
            continue
        for step in outcome.plan.recipe.place.afterwards:
            if step.do == "zip":
                zipped.append(outcome.path)
            elif step.do == "markup":
                folder = outcome.path.parent
                pages.setdefault(folder, []).append(outcome)
                sizes[folder] = sizes.get(folder) or step.sizes
            elif step.do == "sheets":
                laid.setdefault((outcome.path.parent, step), []).append(
                    Piece(outcome.path, outcome.plan.photo_words.title)
                )
            elif step.do == "deliver":
                unsent[step.to] = None
            else:
                shown[outcome.path.parent] = None
    try:
        for folder, made in pages.items():
            drawn = pictures([piece_of(each, folder) for each in made], sizes[folder])
            tell(f"page: {write_pages(folder, drawn, folder.resolve().name)}")
        for (folder, sheets), pieces in laid.items():
            for path in write_sheets(folder, pieces, sheets, folder.resolve().name):
                tell(f"contact sheet: {path}")
        if zipped:
            tell(f"zip: {_zip(root, zipped)}")
    except (OSError, PlaceError) as error:
        tell(str(error))
        return False
    for account in unsent:
        tell(f"not sent to {account}: accounts belong to the server, which delivers what its runs make")
    for folder in shown:
        tell(f"folder: {folder.resolve()}")
    return True


def _zip(root: Path, files: Sequence[Path]) -> Path:
    """A new zip in `root`, pictures stored as they are: those below it by their folders, others by their names."""
    for name in _names():
        try:
            with zipfile.ZipFile(root / name, "x", zipfile.ZIP_STORED) as archive:
                given: set[str] = set()
                for file in files:
                    member = str(file.relative_to(root)) if file.is_relative_to(root) else file.name
                    at = Path(member)
                    for number in count(2):
                        if member.casefold() not in given:
                            break
                        member = str(at.with_name(f"{at.stem}-{number}{at.suffix}"))
                    given.add(member.casefold())
                    archive.write(file, member)
            return root / name
        except FileExistsError:
            continue
    raise AssertionError("unreachable: the names never end")


def _names() -> Iterator[str]:
    yield "renditions.zip"
    yield from (f"renditions-{number}.zip" for number in count(2))
