"""Recipes: the reusable description of one kind of rendition."""

from tray_core.recipe.model import Recipe, recipe_schema
from tray_core.recipe.phrases import Phrase
from tray_core.recipe.profile import check_profile
from tray_core.recipe.reading import RecipeProblems, check_recipe, read_recipe_file, read_recipe_text
from tray_core.recipe.sentence import describe, headline
from tray_core.recipe.starting import starters

__all__ = [
    "Phrase",
    "Recipe",
    "RecipeProblems",
    "check_profile",
    "check_recipe",
    "describe",
    "headline",
    "read_recipe_file",
    "read_recipe_text",
    "recipe_schema",
    "starters",
]
