"""Folders that are watched, and what arrived in them."""

from __future__ import annotations

from pathlib import Path

from django.db import models

from server.photos.models import Photo
from server.runs.models import Run
from server.studios.models import Root, Studio
from server.trays.models import Tray


class Inlet(models.Model):
    """A folder below a root whose arriving files go through recipes, in a tray of its own.

    choose: fixed, the recipes named here; folder, the one that the first subfolder is named after; ask, a person's
    choice for what waits. settle: seconds that a file has to stay the same. ignore: patterns of names, one a line.
    after: what becomes of a file whose renditions are good: it stays, goes into the subfolder done, or is removed,
    which is for copies alone. digest, sealed: of the token that files are posted with. problem: why nothing comes.
    looked: when it was looked at last.
    """

    class Choose(models.TextChoices):
        FIXED = "fixed"
        FOLDER = "folder"
        ASK = "ask"

    class After(models.TextChoices):
        STAY = "stay"
        DONE = "done"
        REMOVE = "remove"

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="inlets")
    name = models.CharField(max_length=80)
    root = models.ForeignKey(Root, on_delete=models.PROTECT, related_name="+")
    path = models.CharField(max_length=1000, blank=True)
    tray = models.ForeignKey(Tray, on_delete=models.PROTECT, related_name="+")
    choose = models.CharField(max_length=6, choices=Choose.choices, default=Choose.FIXED)
    recipes = models.JSONField(default=list)
    settle = models.PositiveSmallIntegerField(default=3)
    ignore = models.TextField(blank=True)
    after = models.CharField(max_length=6, choices=After.choices, default=After.STAY)
    paused = models.BooleanField(default=False)
    digest = models.CharField(max_length=64, blank=True)
    sealed = models.CharField(max_length=300, blank=True)
    problem = models.TextField(blank=True)
    looked = models.DateTimeField(null=True)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="inlet_once_in_studio")]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        """The watched folder."""
        return self.root.folder / self.path


class Arrival(models.Model):
    """One file that arrived: by its path below the inlet, its size and its date.

    since: from when on it was the same. reason: why it waits or failed.
    """

    class State(models.TextChoices):
        SETTLING = "settling"
        READING = "reading"
        WAITING = "waiting"
        MAKING = "making"
        MADE = "made"
        FAILED = "failed"
        GONE = "gone"

    OPEN = (State.SETTLING, State.READING, State.WAITING, State.MAKING)

    inlet = models.ForeignKey(Inlet, on_delete=models.CASCADE, related_name="arrivals")
    path = models.CharField(max_length=1000)
    size = models.BigIntegerField()
    modified = models.FloatField()
    since = models.DateTimeField()
    came = models.DateTimeField(auto_now_add=True)
    state = models.CharField(max_length=8, choices=State.choices, default=State.SETTLING)
    reason = models.TextField(blank=True)
    photo = models.ForeignKey(Photo, on_delete=models.SET_NULL, null=True, related_name="+")
    run = models.ForeignKey(Run, on_delete=models.SET_NULL, null=True, related_name="+")
    chosen = models.JSONField(default=list, help_text="recipes that a person chose for it")
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-id"]
        constraints = [
            models.UniqueConstraint(fields=["inlet", "path", "size", "modified"], name="arrival_once"),
        ]
        indexes = [models.Index(fields=["inlet", "state"])]

    def __str__(self) -> str:
        return self.path
