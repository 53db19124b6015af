"""Questions over the API: one list of all that waits for a person, of every run."""

from __future__ import annotations

import datetime as dt
import os
from pathlib import Path
from typing import Any

from django.db.models import Count
from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from server.http.problems import Problem
from server.http.streams import stream_file
from server.runs import answering
from server.runs.answering import Answer, open_questions
from server.runs.models import Rendition
from server.runs.places import base_of
from server.studios.visitors import studio_of
from tray_core.recipe.pattern import WORDS, fields_in

router = Router(tags=["questions"])
PAGE = 100
_SHOWN = {".jpg": "image/jpeg", ".png": "image/png", ".webp": "image/webp", ".avif": "image/avif", ".gif": "image/gif"}
"""Files that a browser can show."""


class ThereOut(Schema):
    """The file that has the name. width, height: where the product made it, or else 0. shown: by a browser."""

    bytes: int
    changed: dt.datetime
    width: int
    height: int
    ours: bool
    same: bool
    shown: bool


class QuestionOut(Schema):
    """kind: crop, name or word. words: that are missing. there: who has the name; None where it is free again."""

    id: int
    kind: str
    run: int
    tray: int | None
    tray_name: str
    photo: int
    photo_name: str
    photo_digest: str
    photo_width: int
    photo_height: int
    typed: dict[str, Any]
    typed_version: int
    recipe: int
    recipe_title: str
    version: int
    key: str
    name: str
    folder: str
    width: int
    height: int
    about: int
    words: list[str]
    there: ThereOut | None


class QuestionsOut(Schema):
    """counts: by kind. runs: that ask. total, made: renditions of these runs, and those of them that are done with."""

    counts: dict[str, int]
    runs: int
    total: int
    made: int
    questions: list[QuestionOut]


class AnswerIn(Schema):
    """questions: these; or all of one recipe; or, with neither, all that the answer fits."""

    answer: Answer
    questions: list[int] | None = None
    recipe: int | None = None


class AnsweredOut(Schema):
    answered: int


def _target(row: Rendition) -> Path:
    return base_of(row.run, row.photo, row) / row.folder / row.name


def _there(row: Rendition) -> dict[str, Any] | None:
    path = _target(row)
    try:
        info = os.stat(path)
    except OSError:
        return None
    made = Rendition.objects.filter(run__studio_id=row.run.studio_id, path=str(path), state="made").order_by("-pk")
    last = made.first()
    receipt = (last.receipt or {}) if last is not None else {}
    ours = bool(receipt) and receipt.get("bytes") == info.st_size
    return {
        "bytes": info.st_size,
        "changed": dt.datetime.fromtimestamp(info.st_mtime, dt.UTC),
        "width": receipt.get("width", 0) if ours else 0,
        "height": receipt.get("height", 0) if ours else 0,
        "ours": ours,
        "same": ours and last is not None and last.fingerprint == row.fingerprint,
        "shown": path.suffix.lower() in _SHOWN,
    }


def _question(row: Rendition) -> dict[str, Any]:
    kind = row.question or "crop"
    photo, recipe = row.photo, row.version.core()
    asked = [word for word in WORDS if word in fields_in(recipe.name.pattern)] if kind == "word" else []
    return {
        "id": row.pk,
        "kind": kind,
        "run": row.run_id,
        "tray": row.run.tray_id,
        "tray_name": row.run.tray_name,
        "photo": photo.pk,
        "photo_name": photo.name,
        "photo_digest": photo.digest,
        "photo_width": photo.width,
        "photo_height": photo.height,
        "typed": photo.typed,
        "typed_version": photo.typed_version,
        "recipe": row.recipe_id,
        "recipe_title": row.recipe.title,
        "version": row.version_id,
        "key": row.fingerprint,
        "name": row.name,
        "folder": row.folder,
        "width": row.width,
        "height": row.height,
        "about": row.about,
        "words": [word for word in asked if not getattr(photo.words, word)],
        "there": _there(row) if kind == "name" else None,
    }


@router.get("", response=QuestionsOut)
def list_questions(request: HttpRequest, kind: str = "") -> dict[str, Any]:
    """What waits, by kind and recipe; at most a page of it, since each answer makes room."""
    studio = studio_of(request)
    rows = open_questions(studio)
    counts = dict(rows.order_by().values_list("question").annotate(Count("id")))
    counts["crop"] = counts.get("crop", 0) + counts.pop("", 0)
    runs = list(studio.runs.filter(pk__in=rows.values("run")).prefetch_related("tallies"))
    tallies = [tally for run in runs for tally in run.tallies.all()]
    if kind:
        rows = rows.filter(question__in=("crop", "") if kind == "crop" else (kind,))
    shown = rows.select_related("run", "run__studio", "photo__root", "recipe", "version").order_by(
        "-question", "recipe", "n", "pk"
    )
    return {
        "counts": counts,
        "runs": len(runs),
        "total": sum(t.open + t.asking + t.made + t.failed + t.kept + t.stopped for t in tallies),
        "made": sum(t.made + t.failed + t.kept + t.stopped for t in tallies),
        "questions": [_question(row) for row in shown[:PAGE]],
    }


@router.post("/answers", response=AnsweredOut)
def give_answer(request: HttpRequest, body: AnswerIn) -> dict[str, int]:
    """Answer one question, those of one recipe, or all alike. Crops are placed instead, and words typed."""
    studio = studio_of(request)
    rows = open_questions(studio)
    if body.questions is not None:
        rows = rows.filter(pk__in=body.questions)
    elif body.recipe is not None:
        rows = rows.filter(recipe=body.recipe)
    return {"answered": answering.answer(studio, rows, body.answer)}


@router.get("/{number}/there")
def file_there(request: HttpRequest, number: int) -> HttpResponseBase:
    """The file that has the name which a question is about, for browsers to show."""
    rows = open_questions(studio_of(request)).select_related("run", "run__studio", "photo__root", "version")
    row = get_object_or_404(rows, pk=number, question=Rendition.Question.NAME)
    path = _target(row)
    kind = _SHOWN.get(path.suffix.lower())
    inside = {row.run.studio.output.resolve(), row.run.downloads.resolve(), row.photo.file.parent.resolve()}
    if kind is None or inside.isdisjoint(path.resolve().parents):
        raise Problem(410, "The file cannot be shown", f"{row.name}: browsers show no file of this kind.")
    return stream_file(path, kind, row.name, download=False)
