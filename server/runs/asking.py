"""Renditions of unfinished runs that wait for somebody: for a crop, a word, or what becomes of a name that is taken."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import QuerySet

from server.framings.choices import WITH_CHOICES, chosen_for
from server.live.hub import hint
from server.photos.models import Photo
from server.queue.deferring import MAKE, defer_all
from server.runs import tallies
from server.runs.models import Rendition
from tray_core import Plan, plan_renditions
from tray_core.plan import Names
from tray_core.plan.planning import name_scope


def take_in_answered(photos: Iterable[Photo]) -> None:
    """Have made what is answered now by a crop or a word; inside the transaction that keeps it.

    Names stay as they were given at the run's start, but for those that tell a size that is another one now.
    """
    found = Photo.objects.filter(pk__in=[photo.pk for photo in photos]).prefetch_related(*WITH_CHOICES)
    by_number = {photo.pk: photo for photo in found}
    asking = Rendition.objects.filter(photo_id__in=list(by_number), state=Rendition.State.ASKING)
    asking = asking.exclude(question=Rendition.Question.NAME)
    tallies.lock(asking.values_list("run_id", flat=True))
    rows = (
        Rendition.objects.select_for_update(of=("self",))
        .filter(pk__in=asking.values("pk"), run__stop_asked=False)
        .select_related("version", "run")
    )
    answered: dict[tuple[int, int], int] = {}
    for row in rows:
        photo = by_number[row.photo_id]
        plan = _planned(row, photo, Names())
        if plan is None or plan.needs_outline or plan.layout.asks:
            waits = Rendition.Question.CROP if plan is not None and not plan.needs_outline else row.question
            if row.question != waits:  # its outline is there, and its crop is not
                Rendition.objects.filter(pk=row.pk).update(question=waits)
            continue
        if any(warning.code == "no-word" for warning in plan.warnings):
            if row.question != Rendition.Question.WORD:  # its crop is there, and its name is not
                Rendition.objects.filter(pk=row.pk).update(question=Rendition.Question.WORD)
            continue
        sized = (row.width, row.height) != (plan.width, plan.height) and _tells_size(row)
        if sized or row.question == Rendition.Question.WORD:
            row.name = _named(row, photo)
            row.words = plan.words.to_json() if plan.words is not None else None
        row.layout, row.width, row.height = plan.layout.to_json(), plan.width, plan.height
        row.strength, row.tone = plan.strength, plan.tone.to_json()
        row.outline = plan.outline.to_json() if plan.outline is not None else {}
        row.state = Rendition.State.WAITING
        row.save(update_fields=["name", "words", "layout", "width", "height", "strength", "tone", "outline", "state"])
        tallies.move(row.run, row.recipe_id, "asking", "open")
        answered[row.run_id, row.photo_id] = row.run.studio_id
    if answered:
        defer_all(MAKE, ({"run_id": run, "photo_id": photo} for run, photo in answered))
    for run, studio in {(run, studio) for (run, _), studio in answered.items()}:
        hint(studio, "run", run)


def _planned(row: Rendition, photo: Photo, names: Names) -> Plan | None:
    chosen = chosen_for(photo, row.recipe_id)
    plans = plan_renditions(photo.facts(), row.version.core(), row.number, names, row.run.tray_name, **chosen)
    return next((each for each in plans if each.part == row.part), None)


def _tells_size(row: Rendition) -> bool:
    pattern = row.version.core().name.pattern
    return row.parts > 1 or any(field in pattern for field in ("{width", "{height", "{ratio"))


def _named(row: Rendition, photo: Photo) -> str:
    """The name anew, beside all that the run has given."""
    names, recipe = Names(), row.version.core()
    for folder, name in _taken(row):
        names.take(name_scope(recipe, folder, photo.facts().path), name)
    plan = _planned(row, photo, names)
    return plan.name if plan else row.name


def _taken(row: Rendition) -> QuerySet[Rendition, tuple[str, str]]:
    """(folder, name) of what else the run puts beside a rendition, but for its own other parts."""
    others = row.run.renditions.filter(folder=row.folder).exclude(photo=row.photo_id, recipe=row.recipe_id)
    to = row.version.content["place"]["to"]
    if to == "download":
        others = others.filter(recipe=row.recipe_id)
    elif to == "beside":
        others = others.filter(photo__folder=row.photo.folder)
    return others.order_by().values_list("folder", "name")
