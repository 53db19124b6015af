"""Trays: which photos were gathered, from where, and what of them is to be made."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from server.photos.models import Photo
from server.recipes.models import Recipe
from server.studios.models import Root, Studio


class Tray(models.Model):
    """A working set of photos, with the recipes that are lit for it.

    order: the lit recipes' numbers as they stand on the board. seen: when somebody looked at it last. end: the place of
    the next photo; those before it are given or promised.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="trays")
    name = models.CharField(max_length=120)
    made = models.DateTimeField(auto_now_add=True)
    recipes = models.ManyToManyField(Recipe, related_name="trays")
    order = models.JSONField(default=list)
    archived = models.BooleanField(default=False)
    seen = models.DateTimeField(default=timezone.now)
    end = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ["made", "id"]

    def __str__(self) -> str:
        return self.name


class TrayFolder(models.Model):
    """A folder that a tray was gathered from; looked at again for what is new, changed or gone."""

    tray = models.ForeignKey(Tray, on_delete=models.CASCADE, related_name="folders")
    root = models.ForeignKey(Root, on_delete=models.CASCADE)
    path = models.CharField(max_length=1000, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["tray", "root", "path"], name="folder_once_in_tray")]

    def __str__(self) -> str:
        return f"{self.root}/{self.path}"


class TrayPhoto(models.Model):
    """A photo's place in a tray."""

    tray = models.ForeignKey(Tray, on_delete=models.CASCADE, related_name="places")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="places")
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["position", "id"]
        constraints = [models.UniqueConstraint(fields=["tray", "photo"], name="photo_once_in_tray")]
        indexes = [models.Index(fields=["tray", "position", "id"]), models.Index(fields=["tray", "id"])]

    def __str__(self) -> str:
        return f"{self.photo_id} in {self.tray_id}"


class TakenOut(models.Model):
    """A photo that somebody took out of a tray: it does not come back by itself when its folder is looked at again."""

    tray = models.ForeignKey(Tray, on_delete=models.CASCADE, related_name="taken_out")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["tray", "photo"], name="taken_out_once")]

    def __str__(self) -> str:
        return f"{self.photo_id} out of {self.tray_id}"


class Exclusion(models.Model):
    """A cell of the board that is not to be made."""

    tray = models.ForeignKey(Tray, on_delete=models.CASCADE, related_name="exclusions")
    photo = models.ForeignKey(Photo, on_delete=models.CASCADE)
    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["tray", "photo", "recipe"], name="cell_excluded_once")]

    def __str__(self) -> str:
        return f"{self.photo_id} x {self.recipe_id}"
