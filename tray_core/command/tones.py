"""Tones of photos on the command line: one JSON object, by the names or paths of photos."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from tray_core.errors import RecipeError
from tray_core.photo.facts import PhotoFacts
from tray_core.tone import Tone, check_tone

Tell = Callable[[str], None]


class Tones:
    """What `--tones` says."""

    def __init__(self, tones: dict[str, Tone]) -> None:
        self._tones = tones
        self._unused = set(tones)

    def over(self, facts: PhotoFacts) -> PhotoFacts:
        """The facts with the tone that the file has for the photo, by its path or else by its name."""
        for key in (facts.path, Path(facts.path).name):
            if key in self._tones:
                self._unused.discard(key)
                return replace(facts, tone=self._tones[key])
        return facts

    def tell_unused(self, tell: Tell) -> None:
        """Name what was of no photo."""
        for key in sorted(self._unused):
            tell(f"tones: {key}: expected one of these photos, found none of this name. Its tone is not used.")


def read_tones_file(path: str | None, tell: Tell) -> Tones | None:
    """The tones at `path`, none for no path; None after telling everything that is wrong with it."""
    if path is None:
        return Tones({})
    try:
        data = json.loads(Path(path).read_text(encoding="utf-8"))
    except OSError as error:
        tell(f"tones: {path}: expected a JSON file, found {(error.strerror or 'an error').lower()}. Check the path.")
        return None
    except ValueError as error:
        tell(f"tones: {path}: expected JSON, found something else ({error}). Correct the file.")
        return None
    if not isinstance(data, dict):
        tell(f'tones: {path}: expected an object such as {{"photo.jpg": {{"exposure": 0.5}}}}. Correct the file.')
        return None
    found: dict[str, Tone] = {}
    for photo, values in data.items():
        try:
            found[photo] = check_tone(values, photo)
        except RecipeError as error:
            tell(f"tones: {path}: {error}")
    return Tones(found) if len(found) == len(data) else None
