"""Answering what runs ask: what becomes of names that are taken, and of words that are missing."""

from __future__ import annotations

from typing import Literal

from django.db import transaction
from django.db.models import QuerySet

from server.http.problems import Problem
from server.live.hub import hint
from server.queue.deferring import MAKE, defer_all
from server.runs import tallies
from server.runs.models import Rendition
from server.studios.models import Studio

Answer = Literal["new-name", "replace", "keep", "own-name"]
"""Of a name that is taken: as in a recipe's place. own-name: of a missing word, the photo's own name stands for it."""


def open_questions(studio: Studio) -> QuerySet[Rendition]:
    """All renditions of the studio's runs that wait for somebody."""
    return Rendition.objects.filter(run__studio=studio, state=Rendition.State.ASKING)


@transaction.atomic
def answer(studio: Studio, rows: QuerySet[Rendition], said: Answer) -> int:
    """Give one answer to open questions, and go on with them; how many it was of.

    rows: of `open_questions`; those that the answer does not fit stay as they are.
    """
    kind = Rendition.Question.WORD if said == "own-name" else Rendition.Question.NAME
    wanted = rows.filter(question=kind)
    tallies.lock(wanted.values_list("run_id", flat=True).distinct())
    locked = wanted.select_for_update(of=("self",)).select_related("run").order_by("pk")
    found = [row for row in locked if not row.run.stop_asked]
    if not found:
        raise Problem(
            409, "Answered already", "Expected open questions, found none. Somebody answered them, or stopped the run."
        )
    for row in found:
        row.state, row.answer = Rendition.State.WAITING, "" if said == "own-name" else said
        tallies.move(row.run, row.recipe_id, "asking", "open")
    Rendition.objects.bulk_update(found, ["state", "answer"], batch_size=500)
    defer_all(MAKE, ({"run_id": run, "photo_id": photo} for run, photo in {(r.run_id, r.photo_id) for r in found}))
    for run in {row.run_id for row in found}:
        hint(studio.pk, "run", run)
    return len(found)
