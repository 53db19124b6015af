"""What a person decided of a single photo: what of it is shown, and how strongly it is sharpened."""

from __future__ import annotations

from django.db import models
from django.utils import timezone

from server.photos.models import Photo
from server.recipes.models import Recipe
from tray_core.plan import Framing as CoreFraming


class Framing(models.Model):
    """What a person chose of a photo, in shares of its edges; see `tray_core.plan.Framing`.

    recipe: the one it is tied to. chosen: of those that fit a shape, the one chosen last is followed.
    """

    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="framings")
    name = models.CharField(max_length=80)
    x = models.FloatField()
    y = models.FloatField()
    width = models.FloatField()
    height = models.FloatField()
    angle = models.FloatField(default=0)
    turn = models.PositiveSmallIntegerField(default=0)
    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, null=True, related_name="framings")
    chosen = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-chosen", "-id"]

    def __str__(self) -> str:
        return self.name

    def core(self) -> CoreFraming:
        """The framing as the core knows it."""
        return CoreFraming(
            name=self.name,
            x=self.x,
            y=self.y,
            width=self.width,
            height=self.height,
            angle=self.angle,
            turn=self.turn,  # type: ignore[arg-type]  # checked when it was kept
            recipe=self.recipe_id,
        )


class Sharpness(models.Model):
    """How strongly one photo is sharpened by one recipe, where that differs from the recipe's own. Per cent."""

    photo = models.ForeignKey(Photo, on_delete=models.CASCADE, related_name="sharpnesses")
    recipe = models.ForeignKey(Recipe, on_delete=models.CASCADE, related_name="sharpnesses")
    strength = models.PositiveSmallIntegerField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["photo", "recipe"], name="sharpness_once"),
            models.CheckConstraint(condition=models.Q(strength__lte=200), name="sharpness_to_200"),
        ]

    def __str__(self) -> str:
        return f"{self.strength} %"
