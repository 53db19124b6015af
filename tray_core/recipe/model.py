"""The recipe: one kind of rendition, as an ordered line of stations."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from tray_core.recipe.stations import Color, File, Name, Place, Sharpen, Size, Station

FORMAT = "upper-tray/recipe"
VERSION = 1


class Recipe(Station):
    """A recipe file, version 1.

    Stations that are left out do nothing; file, name and place are always there. A recipe without a
    title takes the name of its file.
    """

    format: Literal["upper-tray/recipe"]
    version: Literal[1]
    title: Annotated[str, Field(max_length=80, description="What people call the recipe.")] = ""
    size: Size | None = None
    sharpen: Sharpen | None = None
    color: Color | None = None
    file: File
    name: Name
    place: Place

    def to_json(self) -> dict[str, Any]:
        """The plain JSON of this recipe, without the stations that do nothing."""
        return self.model_dump(mode="json", exclude_none=True)


def recipe_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a recipe file."""
    schema = Recipe.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Upper Tray recipe"}
