"""Who: studios, their people, and the folders that they may read."""

from __future__ import annotations

from itertools import count
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import models
from django.utils.text import slugify

from server.project.conf import conf


class Studio(models.Model):
    """Everything belongs to one studio; others do not see it.

    folder: its own below the output root. quota: bytes that it may keep on the server's disk.
    """

    name = models.CharField(max_length=80, unique=True)
    folder = models.CharField(max_length=80, unique=True, editable=False)
    quota = models.BigIntegerField(default=200_000_000_000)

    def __str__(self) -> str:
        return self.name

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Give the studio its folder, once: what was made is found where it was put, whatever it is called later."""
        if not self.folder:
            stem = slugify(self.name)[:70] or "studio"
            taken = set(Studio.objects.filter(folder__startswith=stem).values_list("folder", flat=True))
            self.folder = next(each for n in count(1) if (each := stem if n == 1 else f"{stem}-{n}") not in taken)
        super().save(*args, **kwargs)

    @property
    def output(self) -> Path:
        """The folder that its renditions go below."""
        return conf.output_root / self.folder


class Member(models.Model):
    """A person of a studio."""

    user = models.OneToOneField(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="member")
    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="members")

    def __str__(self) -> str:
        return f"{self.user} of {self.studio}"


class Root(models.Model):
    """A folder of this machine, with all below it, that a studio's trays may be made from.

    writable: renditions may be put into subfolders beside its photos.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="roots")
    name = models.CharField(max_length=80)
    path = models.CharField(max_length=1000)
    writable = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="root_name_in_studio")]

    def __str__(self) -> str:
        return self.name

    @property
    def folder(self) -> Path:
        """The folder, links resolved."""
        return Path(self.path).resolve()
