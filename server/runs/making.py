"""Making one photo's renditions of a run. Safe to run again after a death in the middle."""

from __future__ import annotations

import contextlib
import functools
import os
from pathlib import Path

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
from tray_core.line import Outcome, make_renditions
from tray_core.line.write import Claims, FileId, file_id
from tray_core.outline import traced_from_json
from tray_core.photo.words import words_from_json
from tray_core.plan import layout_from_json
from tray_core.tone import check_tone

MAX_TRIES = 3
"""How often a photo may take its worker down with it: deaths only, as `runs.recovery` counts them."""


class Superseded(Exception):
    """Somebody else has taken a rendition meanwhile, or it was stopped: what was made of it here is discarded."""


def make(run_id: int, photo_id: int) -> None:
    """Make what is still open of one photo in a run."""
    run = Run.objects.select_related("studio").get(pk=run_id)
    rows = _take(run, photo_id)
    if not rows:
        return
    hint(run.studio_id, "run", run.pk)
    photo = Photo.objects.select_related("root").get(pk=photo_id)
    if not unchanged(photo):
        read(photo)
    if photo.state != Photo.State.READY:
        _close(run, rows, Rendition.State.FAILED, photo.reason)
        return
    with contextlib.suppress(Superseded):
        _make_rows(run, photo, rows)


def _take(run: Run, photo_id: int) -> list[Rendition]:
    """Mark the open renditions of a photo as being made here, and by nobody else from now on."""
    with transaction.atomic():
        tallies.lock([run.pk])
        run.refresh_from_db()
        if run.held:
            return []
        open_ones = run.renditions.filter(photo_id=photo_id, state__in=Rendition.OPEN)
        if run.stop_asked:
            _end(run, open_ones, Rendition.State.STOPPED)
            return []
        _end(
            run,
            open_ones.filter(tries__gte=MAX_TRIES),
            Rendition.State.FAILED,
            f"Expected a photo that can be rendered, found one that crashed the renderer {MAX_TRIES} times. "
            "It may be damaged or too large for the memory; leave it out or save it anew.",
        )
        open_ones.update(state=Rendition.State.MAKING, fence=F("fence") + 1, maker=os.getpid())
        return list(open_ones.select_related("version"))


def _make_rows(run: Run, photo: Photo, rows: list[Rendition]) -> None:
    by_plan: dict[int, Rendition] = {}
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
            _finish(run, row, Outcome(plan=plan, status="failed", error=error), photo)
            continue
        plan = with_curves(photo, plan)
        by_plan[id(plan)] = row
        plans.append(plan)
        folders.append(folder)
    if not plans:
        return
    originals = {identity for path in (photo.file, *_not_ours(photo, plans)) if (identity := file_id(path))}
    outcomes = make_renditions(
        photo.file,
        plans,
        folders,
        originals=originals,
        limits=limits_of(photo),
        claims=lambda plan: _claims(by_plan[id(plan)], photo),
        stopped=lambda: Run.objects.filter(pk=run.pk, stop_asked=True).exists(),
        ready=made_ahead(run.studio_id, photo),
    )
    while True:
        with patience(functools.partial(_close, run, list(by_plan.values()), Rendition.State.FAILED)):
            outcome = next(outcomes, None)
        if outcome is None:
            break
        _finish(run, by_plan.pop(id(outcome.plan)), outcome, photo)
    if by_plan:  # the run was stopped
        _close(run, list(by_plan.values()), Rendition.State.STOPPED)


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
    return Rendition.objects.filter(pk=row.pk, fence=row.fence, state=Rendition.State.MAKING)


def _finish(run: Run, row: Rendition, outcome: Outcome, photo: Photo) -> None:
    if outcome.status == "asking":
        _ask(run, row)
        return
    state = {"made": Rendition.State.MADE, "skipped": Rendition.State.KEPT, "failed": Rendition.State.FAILED}
    receipt = outcome.receipt
    with transaction.atomic():
        tallies.lock([run.pk])
        found = _ours(row).update(
            state=state[outcome.status],
            path=str(outcome.path or ""),
            finished=timezone.now(),
            fingerprint=fingerprint(photo.digest, outcome.plan),
            receipt={name: getattr(receipt, name) for name in receipt.__slots__} if receipt else None,
            error=_sentence(outcome.error, photo, run) if outcome.error else "",
            lost="",
            maker=None,
        )
        if not found:
            raise Superseded
        tallies.move(run, row.recipe_id, "open", state[outcome.status], size=receipt.bytes if receipt else 0)
        if receipt:
            tallies.learn(row.version_id, row.about, receipt.bytes)
        Run.objects.filter(pk=run.pk).update(last=timezone.now())
        tallies.finish_if_done(run)
        hint(run.studio_id, "run", run.pk)


def _ask(run: Run, row: Rendition) -> None:
    """The name is taken, and somebody has to say what becomes of the file there."""
    with transaction.atomic():
        tallies.lock([run.pk])
        found = _ours(row).update(state=Rendition.State.ASKING, question=Rendition.Question.NAME, maker=None)
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


def _close(run: Run, rows: list[Rendition], state: Rendition.State, error: str = "") -> None:
    """End renditions that were taken here, unless somebody else took them since."""
    ours = run.renditions.filter(pk__in=[row.pk for row in rows], maker=os.getpid())
    with transaction.atomic():
        tallies.lock([run.pk])
        _end(run, ours, state, error)


def _end(run: Run, rows: QuerySet[Rendition], state: Rendition.State, error: str = "") -> None:
    tallies.end_rows(run, rows, state, error)
    tallies.finish_if_done(run)
    hint(run.studio_id, "run", run.pk)
