"""Markup of what the command line made."""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Sequence
from pathlib import Path

from tray_core.line import Outcome
from tray_core.markup import Piece, as_html, as_json, pictures


def piece_of(outcome: Outcome, folder: Path) -> Piece:
    """A made rendition as a piece of markup in a page of `folder`."""
    assert outcome.path is not None
    assert outcome.receipt is not None
    words = outcome.plan.photo_words
    return Piece(
        photo=outcome.plan.photo,
        path=Path(os.path.relpath(outcome.path, folder)).as_posix(),
        format=outcome.plan.format if outcome.plan.format != "same" else outcome.receipt.format.lower(),
        width=outcome.receipt.width,
        height=outcome.receipt.height,
        alt=words.alt or words.title,
        title=words.title,
    )


def write_markup(file: Path, sizes: str, outcomes: Sequence[Outcome], tell: Callable[[str], None]) -> bool:
    """Write picture elements of finished files into `file`; whether that could be done.

    By its name: .json for a site generator, index.html for a page that shows all, any other for the elements alone.
    """
    folder = file.parent
    pieces = [
        piece_of(outcome, folder)
        for outcome in sorted(outcomes, key=lambda each: (each.plan.number, each.plan.recipe.title, each.plan.part))
        if outcome.path is not None and outcome.receipt is not None
    ]
    drawn = pictures(pieces, sizes)
    if file.suffix == ".json":
        text = json.dumps(as_json(drawn), indent=2, ensure_ascii=False) + "\n"
    else:
        text = as_html(drawn, folder.resolve().name, page=file.name == "index.html")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        file.write_text(text, encoding="utf-8")
    except OSError as error:
        tell(f"{file}: expected a file that can be written, found {(error.strerror or 'an error').lower()}.")
        return False
    return True
