"""Making one photo's renditions of a run. Safe to run again after a death in the middle."""

from __future__ import annotations

import contextlib
import functools
import os
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import F, QuerySet
from django.utils import timezone

from server.live.hub import hint
from server.photos.models import Photo
from server.photos.outlines import with_curves
from server.photos.reading import limits_of, read, unchanged
from server.photos.written import is_ours, note
from server.project.conf import conf
from server.queue.patience import patience
from server.runs import tallies
from server.runs.ahead import made_ahead
from server.runs.models import Rendition, Run
from server.runs.places import checked_base
from server.studios.models import Root
from tray_core import PlaceError, Plan, Recipe, TrayError
from tray_core.errors import PhotoError
from tray_core.fingerprint import fingerprint
from tray_core.line import make_renditions
from tray_core.line.write import Claims, FileId, file_id
from tray_core.outline import traced_from_json
from tray_core.photo.words import words_from_json
from tray_core.plan import layout_from_json
from tray_core.receipt import Receipt
from tray_core.tone import check_tone

State = Rendition.State
_STATES = {"made": State.MADE, "skipped": State.KEPT, "failed": State.FAILED}
MAX_TRIES = 3
"""How often a photo may take its worker down with it: deaths only, as `runs.recovery` counts them."""


class Superseded(Exception):
    """Somebody else has taken a rendition meanwhile, or it was stopped: what was made of it here is discarded."""


def make(run_id: int, photo_id: int) -> None:
    """Make what is still open of one photo in a run."""
    run, rows = _take(run_id, photo_id)
    if not rows:
        return
    hint(run.studio_id, "run", run.pk)
    photo = Photo.objects.select_related("root").get(pk=photo_id)
    if not unchanged(photo):
        read(photo)
    if photo.state != Photo.State.READY:
        _close(run, rows, State.FAILED, photo.reason)
        return
    with contextlib.suppress(Superseded):
        _make_rows(run, photo, rows)


def _take(run_id: int, photo_id: int) -> tuple[Run, list[Rendition]]:
    """Mark the open renditions of a photo as being made here, and by nobody else from now on."""
    with transaction.atomic():
        run = Run.objects.select_related("studio").select_for_update(of=("self",)).get(pk=run_id)
        if run.held:
            return run, []
        open_ones = run.renditions.filter(photo_id=photo_id, state__in=Rendition.OPEN)
        if run.stop_asked:
            _end(run, open_ones, State.STOPPED)
            return run, []
        rows = list(open_ones.select_related("version"))
        if any(row.tries >= MAX_TRIES for row in rows):
            _end(
                run,
                open_ones.filter(tries__gte=MAX_TRIES),
                State.FAILED,
                f"Expected a photo that can be rendered, found one that crashed the renderer {MAX_TRIES} times. "
                "It may be damaged or too large for the memory; leave it out or save it anew.",
            )
            rows = [row for row in rows if row.tries < MAX_TRIES]
        open_ones.update(state=State.MAKING, fence=F("fence") + 1, maker=os.getpid())
        for row in rows:
            row.fence += 1
        return run, rows


def _make_rows(run: Run, photo: Photo, rows: list[Rendition]) -> None:
    open_ones: list[Rendition] = []
    recipes: dict[tuple[int, str], Recipe] = {}
    plans, folders, roots = [], [], list(Root.objects.all())
    for row in rows:
        # One object for all parts of a recipe: the line keeps the picture that they are cut from by it.
        recipe = recipes.setdefault((row.version_id, row.answer), answered(row))
        plan = Plan(
            photo=str(photo.file),
            recipe=recipe,
            number=row.number,
            width=row.width,
            height=row.height,
            layout=layout_from_json(row.layout),
            name=row.name,
            folder=row.folder,
            part=row.part,
            parts=row.parts,
            panel=row.panel,
            strength=row.strength,
            tone=check_tone(row.tone),
            outline=traced_from_json(row.outline),
            words=words_from_json(row.words) if row.words is not None else None,
            own_bytes=row.own_bytes,
            photo_words=photo.words,
        )
        try:
            folder = checked_base(run, photo, row, roots)
        except PlaceError as error:
            why = {"path": "", "fingerprint": fingerprint(photo.digest, plan), "error": _sentence(error, photo, run)}
            _finish(run, row, State.FAILED, **why)
            continue
        open_ones.append(row)
        plans.append(with_curves(photo, plan))
        folders.append(folder)
    if plans:
        _make_plans(run, photo, open_ones, plans, folders)
    with transaction.atomic():
        tallies.lock([run.pk])
        tallies.finish_if_done(run)


def _make_plans(run: Run, photo: Photo, rows: list[Rendition], plans: list[Plan], folders: list[Path]) -> None:
    """Make what is planned. rows, folders: in step with `plans`."""
    prints = [fingerprint(photo.digest, plan) for plan in plans]
    open_ones = dict(enumerate(rows))
    weights: list[tallies.Weight] = []
    stopped = False
    originals = {identity for path in (photo.file, *_not_ours(photo, plans)) if (identity := file_id(path))}
    outcomes = make_renditions(
        photo.file,
        plans,
        folders,
        originals=originals,
        limits=limits_of(photo),
        claims=lambda number: _claims(rows[number], photo),
        stopped=lambda: stopped,
        ready=made_ahead(run.studio_id, prints),
    )
    while True:
        with patience(functools.partial(_close, run, list(open_ones.values()), State.FAILED)):
            outcome = next(outcomes, None)
        if outcome is None:
            break
        row = open_ones.pop(outcome.number)
        if outcome.status == "asking":
            _ask(run, row)
            continue
        stopped = _finish(
            run,
            row,
            _STATES[outcome.status],
            path=str(outcome.path or ""),
            fingerprint=prints[outcome.number],
            receipt=_plain(outcome.receipt),
            differs=bool(outcome.receipt and outcome.receipt.differences),
            error=_sentence(outcome.error, photo, run) if outcome.error else "",
        )
        if outcome.receipt:
            weights.append(tallies.Weight(row.version_id, row.about, outcome.receipt.bytes))
    with transaction.atomic():
        tallies.learn(weights)
    if open_ones:  # the run was stopped
        _close(run, list(open_ones.values()), State.STOPPED)


def _not_ours(photo: Photo, plans: list[Plan]) -> list[Path]:
    """Files beside the original that have the names of renditions, and that no run has put there."""
    found = [photo.file.parent / plan.path for plan in plans if plan.recipe.place.to == "beside"]
    return [path for path in found if path.exists() and photo.root and not is_ours(photo.root, _resolved(path))]


def _resolved(path: Path) -> Path:
    """The path of a file with the links of its folder resolved, but not itself if it is one."""
    return path.parent.resolve() / path.name


def _claims(row: Rendition, photo: Photo) -> Claims:
    earlier = (row.claim_device, row.claim_inode)
    beside = photo.root if row.version.content["place"]["to"] == "beside" else None

    def claim(path: Path, identity: FileId) -> None:
        # Committed at once, before the file appears: a later try knows its own file by it.
        if not _ours(row).update(path=str(path), claim_device=identity[0], claim_inode=identity[1]):
            raise Superseded
        if beside is not None:
            note(beside, _resolved(path))

    return Claims(earlier=earlier if None not in earlier else None, claim=claim)  # type: ignore[arg-type]


def _ours(row: Rendition) -> QuerySet[Rendition]:
    """The row, if nobody has taken it since."""
    return Rendition.objects.filter(pk=row.pk, fence=row.fence, state=State.MAKING)


def _finish(run: Run, row: Rendition, state: State, **found: Any) -> bool:
    """Write down what became of a rendition; whether the run is to be stopped. found: fields of its row."""
    size = (found.get("receipt") or {}).get("bytes", 0)
    with transaction.atomic():
        stopped = tallies.lock_working(run)
        if not _ours(row).update(state=state, finished=timezone.now(), lost="", maker=None, **found):
            raise Superseded
        tallies.move(run, row.recipe_id, "open", state, size=size)
        hint(run.studio_id, "run", run.pk)
    return stopped


def _plain(receipt: Receipt | None) -> dict[str, Any] | None:
    return {name: getattr(receipt, name) for name in receipt.__slots__} if receipt else None


def _ask(run: Run, row: Rendition) -> None:
    """The name is taken, and somebody has to say what becomes of the file there."""
    with transaction.atomic():
        tallies.lock([run.pk])
        found = _ours(row).update(state=State.ASKING, question=Rendition.Question.NAME, maker=None)
        if not found:
            raise Superseded
        tallies.move(run, row.recipe_id, "open", "asking")
        hint(run.studio_id, "run", run.pk)


def answered(row: Rendition) -> Recipe:
    """The row's recipe, with what somebody said of a name that is taken."""
    recipe = row.version.core()
    if not row.answer:
        return recipe
    return recipe.model_copy(update={"place": recipe.place.model_copy(update={"taken": row.answer})})


def _sentence(error: TrayError, photo: Photo, run: Run) -> str:
    """The error in the words of the person: their photo's name, no path of the server."""
    subject = photo.name if isinstance(error, PhotoError) else error.subject
    subject = subject.replace(str(photo.file), photo.name).removeprefix(f"{conf.output_root / run.studio.folder}/")
    subject = subject.removeprefix(f"{photo.root.folder}/") if photo.root else subject
    return f"{subject}: expected {error.expected}, found {error.found}. {error.remedy}"


def _close(run: Run, rows: list[Rendition], state: State, error: str = "") -> None:
    """End renditions that were taken here, unless somebody else took them since."""
    ours = run.renditions.filter(pk__in=[row.pk for row in rows], maker=os.getpid())
    with transaction.atomic():
        tallies.lock([run.pk])
        _end(run, ours, state, error)


def _end(run: Run, rows: QuerySet[Rendition], state: State, error: str = "") -> None:
    tallies.end_rows(run, rows, state, error)
    tallies.finish_if_done(run)
    hint(run.studio_id, "run", run.pk)
