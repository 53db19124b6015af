"""Outlets as they are kept."""

from __future__ import annotations

from django.db import models

from server.studios.models import Studio
from tray_core.outlets import Outlet as CoreOutlet
from tray_core.outlets import check_outlet


class Outlet(models.Model):
    """A rule sheet of a studio. content: as `tray_core.outlets.Outlet` writes it. version: counts its changes."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="outlets")
    name = models.CharField(max_length=60)
    content = models.JSONField()
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="outlet_once_in_studio")]

    def __str__(self) -> str:
        return self.name

    def core(self) -> CoreOutlet:
        """The sheet as the core computes with it."""
        return check_outlet(self.content)
