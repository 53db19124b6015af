"""Outlines of photos' objects: their curves, of which each lasting one is kept as long as its photo."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.db import IntegrityError, transaction

from server.photos.models import Outline, Photo
from tray_core import Plan
from tray_core.outline import Outline as Curves
from tray_core.outline import traced as traced_of


def keep_curves(photo: Photo, curves: Curves) -> dict[str, Any]:
    """Keep an outline's curves; gives what the photo's row says of it, nothing of an empty one."""
    found = traced_of(curves, (photo.width, photo.height))
    if found is None:
        return {}
    content = {name: value for name, value in curves.to_json().items() if name != "sure"}
    try:
        with transaction.atomic():
            Outline.objects.get_or_create(photo=photo, digest=found.digest, defaults={"content": content})
    except IntegrityError:
        return {}  # the photo was deleted meanwhile
    return found.to_json()


def curves_of(photo: Photo) -> dict[str, Any]:
    """The plain values of a photo's outline, with whether it is sure; nothing where there is none."""
    if not photo.traced:
        return {}
    row = Outline.objects.filter(photo=photo, digest=photo.traced["digest"]).first()
    return {} if row is None else {**row.content, "sure": photo.traced["sure"]}


def with_curves(photo: Photo, plan: Plan) -> Plan:
    """A plan whose pixels may be made: with the curves of its outline, where it has one."""
    if plan.outline is None:
        return plan
    row = Outline.objects.filter(photo=photo, digest=plan.outline.digest).first()
    return plan if row is None else replace(plan, outline=plan.outline.loaded(row.content))
