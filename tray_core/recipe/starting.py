"""Starters: good recipes to begin from, for needs that many outlets share."""

from __future__ import annotations

import functools
from pathlib import Path

from tray_core.recipe.model import Recipe
from tray_core.recipe.reading import read_recipe_file

_FOLDER = Path(__file__).parent / "starters"


def _place(path: Path) -> int:
    return int(path.name.partition("-")[0])


@functools.lru_cache(maxsize=1)
def starters() -> tuple[Recipe, ...]:
    """All starters, in the order in which they are offered."""
    return tuple(read_recipe_file(path) for path in sorted(_FOLDER.glob("*.json"), key=_place))
