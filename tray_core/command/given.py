"""What is given for photos on the command line: one JSON object, by the names or paths of photos."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from tray_core.errors import RecipeError
from tray_core.outline import check_outline, traced
from tray_core.photo.facts import PhotoFacts
from tray_core.tone import Look, Tone, check_looks, check_tone

Tell = Callable[[str], None]
Over = Callable[[PhotoFacts, Any], PhotoFacts]


class Given:
    """What a file of one kind says."""

    def __init__(self, kind: str, values: dict[str, Any], over: Over) -> None:
        self._kind, self._values, self._over = kind, values, over
        self._unused = set(values)

    def over(self, facts: PhotoFacts) -> PhotoFacts:
        """The facts with what the file has for the photo, by its path or else by its name."""
        for key in (facts.path, Path(facts.path).name):
            if key in self._values:
                self._unused.discard(key)
                return self._over(facts, self._values[key])
        return facts

    def tell_unused(self, tell: Tell) -> None:
        """Name what was of no photo."""
        for key in sorted(self._unused):
            tell(f"{self._kind}s: {key}: expected one of these photos, found none of this name. It is not used.")


def read_tones(path: str | None, tell: Tell) -> Given | None:
    """The tones at `path`, none for no path; None after telling everything that is wrong with it."""
    example = '{"photo.jpg": {"exposure": 0.5}}'
    return _read(path, "tone", _tones, lambda facts, both: replace(facts, tone=both[0], looks=both[1]), example, tell)


def _tones(data: Any, source: str) -> tuple[Tone, tuple[Look, ...]]:
    """A tone, or one with looks: {"tone": {...}, "looks": [{"title": ..., "recipes": [...], "tone": {...}}]}."""
    if not isinstance(data, dict) or "looks" not in data:
        return check_tone(data, source), ()
    for name in data:
        if name not in ("tone", "looks"):
            remedy = "Write the values of the tone within it."
            raise RecipeError(f"{source}.{name}", expected="tone and looks", found=name, remedy=remedy)
    return check_tone(data.get("tone", {}), f"{source}.tone"), check_looks(data["looks"], f"{source}.looks")


def read_outlines(path: str | None, tell: Tell) -> Given | None:
    """The outlines at `path`, as `read_tones` reads tones."""
    example = '{"photo.jpg": {"paths": [[{"at": [0.2, 0.2]}, {"at": [0.8, 0.2]}, {"at": [0.5, 0.8]}]]}}'

    def over(facts: PhotoFacts, outline: Any) -> PhotoFacts:
        return replace(facts, outline=traced(outline, (facts.width, facts.height)))

    return _read(path, "outline", check_outline, over, example, tell)


def _read(
    path: str | None, kind: str, check: Callable[[Any, str], Any], over: Over, example: str, tell: Tell
) -> Given | None:
    if path is None:
        return Given(kind, {}, over)
    try:
        data = json.loads(Path(path).read_text(encoding="utf-8"))
    except OSError as error:
        tell(f"{kind}s: {path}: expected a JSON file, found {(error.strerror or 'an error').lower()}. Check the path.")
        return None
    except ValueError as error:
        tell(f"{kind}s: {path}: expected JSON, found something else ({error}). Correct the file.")
        return None
    if not isinstance(data, dict):
        tell(f"{kind}s: {path}: expected an object such as {example}. Correct the file.")
        return None
    found: dict[str, Any] = {}
    for photo, values in data.items():
        try:
            found[photo] = check(values, photo)
        except RecipeError as error:
            tell(f"{kind}s: {path}: {error}")
    return Given(kind, found, over) if len(found) == len(data) else None
