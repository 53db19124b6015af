"""Who: studios, their people, and the folders that they may read."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models


class Studio(models.Model):
    """Everything belongs to one studio; others do not see it."""

    name = models.CharField(max_length=80, unique=True)

    def __str__(self) -> str:
        return self.name


class Member(models.Model):
    """A person of a studio."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="members")

    def __str__(self) -> str:
        return f"{self.user} of {self.studio}"


class Root(models.Model):
    """A folder of this machine, with all below it, that a studio's trays may be made from."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="roots")
    name = models.CharField(max_length=80)
    path = models.CharField(max_length=1000)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="root_name_in_studio")]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        """The folder, links resolved."""
        return Path(self.path).resolve()
