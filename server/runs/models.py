"""Runs and their renditions: the rows are the truth, whatever the queue says."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from server.photos.models import Photo
from server.project.conf import conf
from server.recipes.models import Recipe, RecipeVersion
from server.studios.models import Studio
from server.trays.models import Tray
from tray_core.plan import Number


class Run(models.Model):
    """One making of renditions; its recipes are pinned as they were.

    held: nothing of it is worked on until somebody says so. urgency: runs of a higher one come first.
    afterwards: what its recipes ask for once all is made, each as do, recipes, sizes, sheets, and once it was done
    paths and error. cover: the first pictures, each as photo, version and key. originals: bytes of its photos.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="runs")
    tray = models.ForeignKey(Tray, on_delete=models.SET_NULL, null=True, related_name="runs")
    tray_name = models.CharField(max_length=120)
    started = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)
    last = models.DateTimeField(null=True, help_text="when a rendition was finished last")
    stop_asked = models.BooleanField(default=False)
    left_out = models.JSONField(default=list, help_text="photos that could not be read: photo, name and reason")
    last_place = models.BigIntegerField(default=0, help_text="the newest place of its tray when it began")
    held = models.BooleanField(default=False)
    urgency = models.PositiveSmallIntegerField(default=0)
    afterwards = models.JSONField(default=list)
    cover = models.JSONField(default=list)
    originals = models.BigIntegerField(default=0)

    class Meta:
        ordering = ["-started", "-id"]

    def __str__(self) -> str:
        return f"run {self.pk} of {self.tray_name}"

    @property
    def downloads(self) -> Path:
        """Where renditions without a folder of their own lie."""
        return conf.media / "renditions" / str(self.pk)


class Tally(models.Model):
    """How many renditions of a run and a recipe are in which state: kept in step, so that nobody counts them.

    Changed by `runs.tallies` alone, by whoever has locked the run's row. bytes: of those made.
    """

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="tallies")
    recipe = models.ForeignKey(Recipe, on_delete=models.PROTECT)
    open = models.IntegerField(default=0)
    asking = models.IntegerField(default=0)
    made = models.IntegerField(default=0)
    failed = models.IntegerField(default=0)
    kept = models.IntegerField(default=0)
    stopped = models.IntegerField(default=0)
    bytes = models.BigIntegerField(default=0)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "recipe"], name="tally_once")]
        indexes = [
            models.Index(
                fields=["run"], name="tally_unfinished", condition=models.Q(open__gt=0) | models.Q(asking__gt=0)
            )
        ]

    def __str__(self) -> str:
        return f"{self.made} of {self.recipe_id} in run {self.run_id}"


class Rendition(models.Model):
    """One output of one photo by one recipe: planned, then made, failed, kept or stopped.

    A rendition that waits for somebody is `asking`: no job is there for it until they answered.
    part, panel, strength, words, tone, outline, own_bytes: as in `tray_core.Plan`. numbers: as in
    `tray_core.plan.Number`, empty in runs of older versions. about: bytes, as forecast before anything was learned;
    0 where nobody did. layout: its geometry, as `Layout.to_json` wrote it. question: what somebody has to answer
    first; answer: what they said of a name that is taken, as in a recipe's place.
    claim_device, claim_inode: the identity of the file that a try was about to put in place. fence: counts who took it
    to make it; only the last of them may put a file in place. tries: how many processes died at it; maker: the one
    that is at it.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        MAKING = "making"
        ASKING = "asking"
        MADE = "made"
        FAILED = "failed"
        KEPT = "kept"
        STOPPED = "stopped"

    class Lost(models.TextChoices):
        GONE = "gone"
        CHANGED = "changed"

    class Question(models.TextChoices):
        CROP = "crop"
        NAME = "name"
        WORD = "word"
        OUTLINE = "outline"

    OPEN = (State.WAITING, State.MAKING)
    UNFINISHED = (*OPEN, State.ASKING)

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="renditions")
    photo = models.ForeignKey(Photo, on_delete=models.PROTECT, related_name="renditions")
    recipe = models.ForeignKey(Recipe, on_delete=models.PROTECT, related_name="renditions")
    version = models.ForeignKey(RecipeVersion, on_delete=models.PROTECT)
    n = models.PositiveIntegerField()
    part = models.PositiveSmallIntegerField(default=1)
    parts = models.PositiveSmallIntegerField(default=1)
    panel = models.PositiveSmallIntegerField(null=True)
    strength = models.PositiveSmallIntegerField(null=True)
    numbers = models.JSONField(default=list)
    words = models.JSONField(null=True)
    tone = models.JSONField(default=dict)
    outline = models.JSONField(default=dict)
    own_bytes = models.PositiveBigIntegerField(default=0)
    about = models.PositiveBigIntegerField(default=0)
    layout = models.JSONField(default=dict)
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    name = models.CharField(max_length=255)
    folder = models.CharField(max_length=1000, blank=True)
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    question = models.CharField(max_length=8, choices=Question.choices, blank=True)
    answer = models.CharField(max_length=8, blank=True)
    tries = models.PositiveSmallIntegerField(default=0)
    fence = models.PositiveIntegerField(default=0)
    maker = models.PositiveIntegerField(null=True, help_text="process number")
    fingerprint = models.CharField(max_length=64, blank=True)
    path = models.CharField(max_length=2000, blank=True)
    claim_device = models.BigIntegerField(null=True)
    claim_inode = models.BigIntegerField(null=True)
    receipt = models.JSONField(null=True)
    differs = models.BooleanField(default=False, help_text="whether its file is other than planned")
    lost = models.CharField(max_length=8, choices=Lost.choices, blank=True, help_text="what became of its file since")
    error = models.TextField(blank=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering = ["n", "id"]
        constraints = [
            models.UniqueConstraint(fields=["run", "photo", "recipe", "part"], name="rendition_once_in_run"),
            models.CheckConstraint(
                condition=~models.Q(state="made") | models.Q(receipt__isnull=False), name="made_has_receipt"
            ),
        ]
        indexes = [
            models.Index(fields=["run", "state"]),
            models.Index(fields=["photo", "recipe", "part", "-id"]),
            models.Index(fields=["run"], name="rendition_lost", condition=~models.Q(lost="")),
            models.Index(fields=["run"], name="rendition_differs", condition=models.Q(differs=True)),
        ]

    def __str__(self) -> str:
        return f"{self.name} of run {self.run_id}"

    @property
    def number(self) -> Number:
        """The photo's numbers in the run."""
        return Number(*self.numbers) if self.numbers else Number.alone(self.n)


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
