"""Further tones of one photo, each with a title, for some recipes: the others follow the photo's own."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

from tray_core.errors import RecipeError
from tray_core.tone.model import Tone, check_tone

MOST_LOOKS = 16
LONGEST_TITLE = 60
_MOST = 500


class Look(NamedTuple):
    """recipes: those that follow it, by whatever number the caller gives recipes, or by their titles."""

    title: str
    recipes: tuple[int | str, ...]
    tone: Tone


NO_LOOKS: tuple[Look, ...] = ()


def tone_for(own: Tone, looks: Sequence[Look], number: int | None, title: str) -> Tone:
    """The tone that a recipe follows: of the first look that names it, or else the photo's own."""
    return next((look.tone for look in looks if number in look.recipes or title in look.recipes), own)


def check_looks(data: Any, source: str = "looks") -> tuple[Look, ...]:
    """The looks of plain JSON values; RecipeError names the first wrong field by its path."""
    if not isinstance(data, list):
        raise RecipeError(source, expected="a list", found=type(data).__name__, remedy="Write it as [ ... ].")
    if len(data) > MOST_LOOKS:
        expected = f"at most {MOST_LOOKS} looks"
        raise RecipeError(source, expected=expected, found=f"{len(data)}", remedy="Remove some.")
    found = tuple(_checked(each, f"{source}.{number}") for number, each in enumerate(data))
    titles = [look.title.casefold() for look in found]
    for number, title in enumerate(titles):
        if title in titles[:number]:
            path = f"{source}.{number}.title"
            raise RecipeError(path, expected="a title of its own", found=found[number].title, remedy="Change it.")
    tied = [recipe for look in found for recipe in look.recipes]
    if twice := next((recipe for recipe in tied if tied.count(recipe) > 1), None):
        raise RecipeError(
            source, expected="one look a recipe", found=f"several for {twice}", remedy="Remove it from one."
        )
    return found


def _checked(data: Any, path: str) -> Look:
    if not isinstance(data, dict) or set(data) - {"title", "recipes", "tone"}:
        found = ", ".join(data) if isinstance(data, dict) else type(data).__name__
        raise RecipeError(path, expected="title, recipes and tone", found=found, remedy="Remove what is unknown.")
    title, recipes = data.get("title"), data.get("recipes", [])
    if not isinstance(title, str) or not title.strip() or len(title) > LONGEST_TITLE:
        expected = f"1 to {LONGEST_TITLE} characters"
        raise RecipeError(f"{path}.title", expected=expected, found=repr(title)[:80], remedy="Give it a title.")
    if not isinstance(recipes, list) or len(recipes) > _MOST or any(type(each) not in (int, str) for each in recipes):
        raise RecipeError(
            f"{path}.recipes", expected=f"at most {_MOST} recipes", found=repr(recipes)[:80], remedy="Correct it."
        )
    return Look(title.strip(), tuple(recipes), check_tone(data.get("tone", {}), f"{path}.tone"))


def looks_to_json(looks: Sequence[Look]) -> list[dict[str, Any]]:
    """The plain values that `check_looks` reads."""
    return [{"title": look.title, "recipes": list(look.recipes), "tone": look.tone.to_json()} for look in looks]
