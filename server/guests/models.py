"""What is handed to people outside the studio: links, what lies behind them, and what clients said."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.utils import timezone

from server.runs.models import Rendition
from server.studios.models import Studio


class Link(models.Model):
    """A page for somebody who has its address: finished files to pick up, or a room of proofs to judge.

    digest: SHA-256 of the secret in the address; sealed: the secret itself, encrypted. passphrase: hashed; "" without.
    wanted: how many picks were agreed. stamp: the text over proofs. opened, saved: how many times.
    """

    class Kind(models.TextChoices):
        PICKUP = "pickup"
        PROOF = "proof"

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="links")
    kind = models.CharField(max_length=6, choices=Kind.choices)
    name = models.CharField(max_length=80)
    digest = models.CharField(max_length=64, unique=True)
    sealed = models.CharField(max_length=300)
    passphrase = models.CharField(max_length=200, blank=True)
    expires = models.DateTimeField()
    withdrawn = models.BooleanField(default=False)
    wanted = models.PositiveSmallIntegerField(null=True)
    stamp = models.CharField(max_length=60, blank=True)
    opened = models.PositiveIntegerField(default=0)
    saved = models.PositiveIntegerField(default=0)
    made = models.DateTimeField(auto_now_add=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return self.name

    @property
    def good(self) -> bool:
        """Whether it still opens."""
        return not self.withdrawn and timezone.now() < self.expires


class Item(models.Model):
    """A finished file behind a link."""

    link = models.ForeignKey(Link, on_delete=models.CASCADE, related_name="items")
    rendition = models.ForeignKey(Rendition, on_delete=models.CASCADE, related_name="+")
    position = models.PositiveIntegerField()

    class Meta:
        ordering = ["position", "id"]
        constraints = [models.UniqueConstraint(fields=["link", "rendition"], name="item_once_behind_link")]

    def __str__(self) -> str:
        return f"{self.position} of {self.link_id}"


class Guest(models.Model):
    """Somebody who opened a proof room, under the name that they gave. done: they said that they are through."""

    link = models.ForeignKey(Link, on_delete=models.CASCADE, related_name="guests")
    name = models.CharField(max_length=60)
    done = models.BooleanField(default=False)
    came = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.name


class Verdict(models.Model):
    """What a guest says of a proof."""

    class Says(models.TextChoices):
        YES = "yes"
        MAYBE = "maybe"
        NO = "no"

    guest = models.ForeignKey(Guest, on_delete=models.CASCADE, related_name="verdicts")
    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="verdicts")
    says = models.CharField(max_length=5, choices=Says.choices)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["guest", "item"], name="verdict_once")]

    def __str__(self) -> str:
        return self.says


class Comment(models.Model):
    """What a guest writes of a proof, at a spot of it in shares of its edges, or of all of it."""

    guest = models.ForeignKey(Guest, on_delete=models.CASCADE, related_name="comments")
    item = models.ForeignKey(Item, on_delete=models.CASCADE, related_name="comments")
    text = models.CharField(max_length=1000)
    x = models.FloatField(null=True)
    y = models.FloatField(null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return self.text[:40]
