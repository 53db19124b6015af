"""What differs between two states of a recipe, in words."""

from __future__ import annotations

from tray_core.recipe.model import Recipe
from tray_core.recipe.sentence import describe

_TEXTS = ("title", "shelf", "note")


def changes(before: Recipe, after: Recipe) -> tuple[str, ...]:
    """One text a change: "size: 1600 px wide → 1200 px wide", "note". Empty where nothing differs."""
    said = [name for name in _TEXTS if getattr(before, name) != getattr(after, name)]
    one, other = _by_station(before), _by_station(after)
    for station in ("prep", "cutout", "frame", "size", "sharpen", "finish", "color", "file", "name", "place"):
        if getattr(before, station) == getattr(after, station):
            continue
        old, new = one.get(station, "nothing"), other.get(station, "nothing")
        said.append(f"{station}: {old} → {new}" if old != new else f"{station}: a detail")
    if before.parts != after.parts:
        said.append("parts")
    return tuple(said)


def _by_station(recipe: Recipe) -> dict[str, str]:
    found: dict[str, str] = {}
    for phrase in describe(recipe):
        if phrase.station:
            found[phrase.station] = ", ".join(filter(None, (found.get(phrase.station), phrase.text)))
    return found
