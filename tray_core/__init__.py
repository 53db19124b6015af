"""The rules of the job and its computation: recipe -> plan -> line -> receipt.

Imports neither Django nor the server, knows no database and no web. Heavy imaging libraries are
loaded with `tray_core.line` only, so that planning stays light.
"""

import os

# Before OpenCV is loaded, here and in processes begun from here. Pictures are shared out one process a core: threads
# of its own beside them cost a tenth more and gain nothing.
os.environ.setdefault("OPENCV_FOR_THREADS_NUM", "1")

from tray_core.errors import PhotoError, PlaceError, RecipeError, TrayError
from tray_core.photo import DEFAULT_LIMITS, Limits, PhotoFacts, find_photos, read_facts
from tray_core.plan import Plan, plan_all, plan_renditions
from tray_core.recipe import Recipe, check_recipe, read_recipe_file, recipe_schema

__all__ = [
    "DEFAULT_LIMITS",
    "Limits",
    "PhotoError",
    "PhotoFacts",
    "PlaceError",
    "Plan",
    "Recipe",
    "RecipeError",
    "TrayError",
    "check_recipe",
    "find_photos",
    "plan_all",
    "plan_renditions",
    "read_facts",
    "read_recipe_file",
    "recipe_schema",
]
