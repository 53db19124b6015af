"""Photos, the trays they are gathered in, and what a tray wants made of them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.db import models
from django.utils import timezone

from server.conf import conf
from server.recipes.models import Recipe
from server.studios.models import Root, Studio
from tray_core import PhotoFacts
from tray_core.photo.interest import Interest, Subject
from tray_core.plan import Framing as CoreFraming
from tray_core.plan.weight import Detail, detail_from_json


class Photo(models.Model):
    """One original, in place below a root or uploaded; never written to.

    width, height: upright pixels. digest: of the file's bytes, when they were last read, which was at `read`.
    interest: along the width and then along the height, as one value. detail: as `tray_core.plan.weight.Detail`.
    asked: since when it is to be read, None once it was: there is one such job a photo. tries: how many processes died
    at reading it; reader: the one that is at it.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        READY = "ready"
        UNREADABLE = "unreadable"
        GONE = "gone"

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="photos")
    root = models.ForeignKey(Root, on_delete=models.CASCADE, null=True, related_name="photos")
    path = models.CharField(max_length=1000, help_text="below the root, or below the media folder for uploads")
    name = models.CharField(max_length=255)
    folder = models.CharField(max_length=255, blank=True)
    state = models.CharField(max_length=12, choices=State.choices, default=State.WAITING)
    reason = models.TextField(blank=True)
    format = models.CharField(max_length=12, blank=True)
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    orientation = models.PositiveSmallIntegerField(default=1)
    depth = models.PositiveSmallIntegerField(default=8)
    mode = models.CharField(max_length=12, blank=True)
    alpha = models.BooleanField(default=False)
    profile = models.CharField(max_length=200, null=True)  # noqa: DJ001  # without a profile is not an empty one
    bad_profile = models.CharField(max_length=100, blank=True, help_text="why the embedded profile is not used")
    bytes = models.BigIntegerField(default=0)
    taken = models.DateTimeField(null=True)
    modified = models.DateTimeField(null=True)
    ends_early = models.BooleanField(default=False)
    digest = models.CharField(max_length=64, blank=True)
    interest = models.BinaryField(null=True)
    subjects = models.JSONField(default=list, help_text="what crops must not cut: kind and box")
    detail = models.JSONField(null=True)
    read = models.DateTimeField(null=True)
    asked = models.DateTimeField(null=True)
    tries = models.PositiveSmallIntegerField(default=0)
    reader = models.PositiveIntegerField(null=True, help_text="process number")

    class Meta:
        indexes = [models.Index(fields=["asked"], name="photo_asked", condition=models.Q(asked__isnull=False))]
        constraints = [
            models.UniqueConstraint(
                fields=["studio", "root", "path"], name="photo_once_in_studio", nulls_distinct=False
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def file(self) -> Path:
        """The original. Whoever opens it for reading has checked that its root still holds it."""
        return (self.root.folder if self.root else conf.media) / self.path

    def facts(self) -> PhotoFacts:
        """What the plan needs to know."""
        return PhotoFacts(
            path=f"{self.folder}/{self.name}",
            format=self.format,
            width=self.width,
            height=self.height,
            orientation=self.orientation,
            depth=self.depth,
            mode=self.mode,
            alpha=self.alpha,
            profile=self.profile,
            bad_profile=self.bad_profile,
            bytes=self.bytes,
            # Cameras know no time zone: what they wrote is kept as if it were UTC and shown as written.
            taken=self.taken.replace(tzinfo=None) if self.taken else None,
            modified=self.modified.replace(tzinfo=None) if self.modified else None,
            ends_early=self.ends_early,
            interest=self._interest(),
        )

    def chosen(self, recipe: int | None) -> dict[str, Any]:
        """What a person chose for this photo, as `plan_renditions` takes it: its framings, and its sharpening."""
        strengths: dict[int | None, int] = {each.recipe_id: each.strength for each in self.sharpnesses.all()}
        framings = [framing.core() for framing in self.framings.all()]
        return {"framings": framings, "strength": strengths.get(recipe), "number": recipe}

    def weighed(self) -> Detail | None:
        """What the photo weighed when it was read, for forecasts."""
        return detail_from_json(self.detail)

    def _interest(self) -> Interest | None:
        if self.interest is None:
            return None
        both = bytes(self.interest)
        subjects = tuple(Subject(kind, tuple(box)) for kind, box in self.subjects)
        return Interest(both[: len(both) // 2], both[len(both) // 2 :], subjects)


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


class Weighed(models.Model):
    """A rendition encoded ahead of any run: same fingerprint, same bytes.

    about: its quality, score and tries, as `tray_core.coders.Encoded` has them. The file itself lies in the cache.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="weighed")
    fingerprint = models.CharField(max_length=64)
    bytes = models.BigIntegerField()
    about = models.JSONField()
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["studio", "fingerprint"], name="weighed_once_in_studio")]
        indexes = [models.Index(fields=["studio", "made"])]

    def __str__(self) -> str:
        return self.fingerprint

    @property
    def file(self) -> Path:
        """Where the encoded bytes lie."""
        return conf.cache / "weighed" / str(self.studio_id) / self.fingerprint[:2] / self.fingerprint
