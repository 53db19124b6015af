"""Recipes as they are kept: every change is a version, and versions stay."""

from __future__ import annotations

import functools
import json
from typing import Any

from django.conf import settings
from django.db import models

from server.studios.models import Studio
from tray_core import Recipe as CoreRecipe
from tray_core import check_recipe
from tray_core.marks.fonts import FAMILIES
from tray_core.recipe.finish import AnyMark, TextMark


class Recipe(models.Model):
    """A recipe of a studio; what it says is in its newest version."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="recipes")
    title = models.CharField(max_length=80)
    position = models.PositiveIntegerField(default=0)
    archived = models.BooleanField(default=False)
    current = models.ForeignKey("RecipeVersion", on_delete=models.PROTECT, related_name="+", null=True)

    class Meta:
        ordering = ["position", "id"]

    def __str__(self) -> str:
        return self.title


def counted(recipes: models.QuerySet[Recipe]) -> models.QuerySet[Recipe]:
    """The same recipes in their order, with what they say now, and in how many trays they are lit (`lit_in`)."""
    found = Recipe.objects.filter(pk__in=recipes.values("pk")).select_related("current")
    return found.annotate(lit_in=models.Count("trays")).order_by("position", "id")


class Part(models.Model):
    """A station's setting that several recipes share: change it once, all follow.

    Recipes that follow it say so by its name (`Recipe.parts` of the core), and hold its setting themselves.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="parts")
    station = models.CharField(max_length=12)
    name = models.CharField(max_length=60)
    setting = models.JSONField()

    class Meta:
        ordering = ["station", "name"]
        constraints = [models.UniqueConstraint(fields=["studio", "station", "name"], name="part_once_in_studio")]

    def __str__(self) -> str:
        return f"{self.name} ({self.station})"

    @property
    def newest(self) -> int:
        """The number of its newest version, 0 before there is any."""
        return self.versions.aggregate(last=models.Max("number"))["last"] or 0


class PartVersion(models.Model):
    """What a part said once; never changed once written."""

    part = models.ForeignKey(Part, on_delete=models.CASCADE, related_name="versions")
    number = models.PositiveIntegerField()
    setting = models.JSONField()
    made = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["part", "number"], name="version_number_in_part")]

    def __str__(self) -> str:
        return f"{self.part_id} v{self.number}"


class RecipeVersion(models.Model):
    """One state of a recipe, as plain JSON; never changed once written.

    forecast, weighed: bytes of all that was made of it, as they were forecast and as they came out.
    """

    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="versions")
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="+")
    number = models.PositiveIntegerField()
    content = models.JSONField()
    made = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    forecast = models.BigIntegerField(default=0)
    weighed = models.BigIntegerField(default=0)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["recipe", "number"], name="version_number_in_recipe")]

    def __str__(self) -> str:
        return f"{self.recipe_id} v{self.number}"

    def core(self) -> CoreRecipe:
        """The recipe as the core computes with it."""
        return _core(json.dumps(self.content), self.studio_id)


@functools.lru_cache(maxsize=500)
def _core(text: str, studio: int) -> CoreRecipe:
    """Read once for all: a board asks for the same few again and again."""
    return with_files_of(check_recipe(json.loads(text)), studio)


def with_files_of(core: CoreRecipe, studio: int) -> CoreRecipe:
    """The recipe with its profile and its marks named in the studio's own folders: others may have some of the same
    names.
    """
    changes: dict[str, Any] = {}
    if core.color is not None and core.color.icc is not None:
        changes["color"] = core.color.model_copy(update={"icc": f"{studio}/{core.color.icc}"})
    if core.finish is not None and (core.finish.pictures or core.finish.fonts):
        marks = tuple(_mark_of(mark, studio) for mark in core.finish.marks)
        changes["finish"] = core.finish.model_copy(update={"marks": marks})
    return core.model_copy(update=changes) if changes else core


def _mark_of(mark: AnyMark, studio: int) -> AnyMark:
    if isinstance(mark, TextMark):
        return mark if mark.font in FAMILIES else mark.model_copy(update={"font": f"{studio}/{mark.font}"})
    dark = f"{studio}/{mark.on_dark}" if mark.on_dark is not None else None
    return mark.model_copy(update={"picture": f"{studio}/{mark.picture}", "on_dark": dark})


class Set(models.Model):
    """Recipes that make the same picture for one place in a page.

    sizes: how wide the picture is there, as in HTML. members: recipe numbers, each with the media condition of the
    screens that it is for, "" for all.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="sets")
    name = models.CharField(max_length=60)
    sizes = models.CharField(max_length=500, blank=True)
    members = models.JSONField(default=list)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="set_once_in_studio")]

    def __str__(self) -> str:
        return self.name

    def media(self) -> dict[int, str]:
        """The recipes with their conditions."""
        return {member["recipe"]: member["media"] for member in self.members}
