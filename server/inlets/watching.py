"""One look at an inlet: what is new settles, is read, is made, and is put away; safe to end anywhere.

The rows are the truth. A file is known by its path, size and date: whatever was made of it once is not made again, and
what is on its way is found again after any end, by the state of its row.
"""

from __future__ import annotations

import fnmatch
import logging
import os
from collections import defaultdict
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path, PurePath

from django.db import transaction
from django.db.models import Exists, OuterRef
from django.utils import timezone

from server.board.starting import start_run
from server.http.problems import Problem
from server.inlets import flows
from server.inlets.models import Arrival, Inlet
from server.live.hub import hint
from server.photos.models import Photo
from server.photos.written import ours_below
from server.runs import files
from server.runs.models import Rendition
from server.trays.gathering import gather
from tray_core.photo.find import EXTENSIONS

logger = logging.getLogger(__name__)
State = Arrival.State

AT_ONCE = 1000
"""Files of one inlet that are taken in at one look; the others follow at the next."""

File = tuple[int, float]
"""Bytes and time of change."""

_GONE = "The folder is gone or cannot be read. Bring it back: what is known of its files stays."


def look_at_all() -> None:
    """Look at every inlet; a fault of one leaves the others alone."""
    for inlet in Inlet.objects.filter(paused=False).select_related("root", "studio", "tray"):
        try:
            look(inlet)
        except Exception:
            logger.exception("looking at the inlet %s failed", inlet.pk)


def look(inlet: Inlet) -> None:
    """One look at one inlet, through all its steps."""
    there = _files(inlet)
    _note(inlet, "" if there is not None else _GONE)
    if there is not None:
        _arrive(inlet, there)
        _take_in(inlet, there)
    _start(inlet)
    _finish(inlet)


def _note(inlet: Inlet, problem: str) -> None:
    with transaction.atomic():
        Inlet.objects.filter(pk=inlet.pk).update(looked=timezone.now(), problem=problem)
        if problem != inlet.problem:
            hint(inlet.studio_id, "inlet", inlet.pk)


def _files(inlet: Inlet) -> dict[str, File] | None:
    """The pictures in the folder, by their paths below it; None where it cannot be read."""
    top = inlet.folder
    if not top.is_dir() or not os.access(top, os.R_OK | os.X_OK):
        return None
    patterns = [each for each in inlet.ignore.split("\n") if each.strip()]
    ours = ours_below(top)
    found: dict[str, File] = {}
    for path in _walk(top, patterns):
        if path in ours or path.suffix.lower() not in EXTENSIONS:
            continue
        try:
            info = path.stat()
            relative = str(path.relative_to(top))
            relative.encode()
        except (OSError, UnicodeEncodeError):
            continue
        if len(relative) < 900:
            found[relative] = (info.st_size, info.st_mtime)
    return found


def _walk(top: Path, patterns: list[str]) -> Iterator[Path]:
    def ignored(name: str) -> bool:
        return any(fnmatch.fnmatch(name, each) for each in patterns)

    for folder, inner, names in os.walk(top):
        here = Path(folder)
        # What was put away lies in a folder of its own, whatever the inlet does with its files now.
        inner[:] = [name for name in inner if not ignored(name) and (name != flows.DONE or here != top)]
        yield from (here / name for name in names if not ignored(name) and not (here / name).is_symlink())


def _arrive(inlet: Inlet, there: dict[str, File]) -> None:
    """Note what is new, and what still changes."""
    known: dict[str, list[Arrival]] = defaultdict(list)
    for arrival in inlet.arrivals.filter(path__in=list(there)).only("inlet", "path", "size", "modified", "state"):
        known[arrival.path].append(arrival)
    now, fresh, changed = timezone.now(), [], []
    for path, file in there.items():
        rows = known.get(path, [])
        if any((row.size, row.modified) == file for row in rows):
            continue
        settling = next((row for row in rows if row.state == State.SETTLING), None)
        if settling is None:
            fresh.append(Arrival(inlet=inlet, path=path, size=file[0], modified=file[1], since=now))
        else:
            settling.size, settling.modified, settling.since = *file, now
            changed.append(settling)
    gone = inlet.arrivals.filter(state=State.SETTLING).exclude(path__in=list(there))
    with transaction.atomic():
        Arrival.objects.bulk_create(fresh, batch_size=1000, ignore_conflicts=True)
        Arrival.objects.bulk_update(changed, ["size", "modified", "since"], batch_size=1000)
        lost = gone.update(state=State.GONE, reason="It went before it was taken in.", finished=now)
        if fresh or changed or lost:
            hint(inlet.studio_id, "inlet", inlet.pk)


def _take_in(inlet: Inlet, there: dict[str, File]) -> None:
    """Read what has stayed the same long enough."""
    before = timezone.now() - timedelta(seconds=inlet.settle)
    settled = inlet.arrivals.filter(state=State.SETTLING, since__lte=before).order_by("id")[:AT_ONCE]
    rows = [row for row in settled if there.get(row.path) == (row.size, row.modified) and row.size > 0]
    if not rows:
        return
    lead = f"{inlet.path}/" if inlet.path else ""
    with transaction.atomic():
        gather(inlet.tray, inlet.root, [f"{lead}{row.path}" for row in rows])
        paths = [f"{lead}{row.path}" for row in rows]
        photos = Photo.objects.filter(studio=inlet.studio_id, root=inlet.root_id, path__in=paths)
        found = dict(photos.values_list("path", "pk"))
        for row in rows:
            row.photo_id, row.state = found.get(f"{lead}{row.path}"), State.READING
        Arrival.objects.bulk_update(rows, ["photo", "state"], batch_size=1000)
        hint(inlet.studio_id, "inlet", inlet.pk)


def _start(inlet: Inlet) -> None:
    """Start runs of what is read, one for all that go through the same recipes."""
    read = inlet.arrivals.filter(state__in=(State.READING, State.WAITING), photo__asked=None).select_related("photo")
    groups: dict[tuple[int, ...], list[Arrival]] = defaultdict(list)
    for row in read.order_by("id")[:AT_ONCE]:
        if row.photo is None or row.photo.state == Photo.State.GONE:
            _end(inlet, row, State.GONE, "It went before it was made.")
        elif row.photo.state == Photo.State.UNREADABLE:
            _end(inlet, row, State.FAILED, row.photo.reason)
        elif row.photo.state == Photo.State.READY:
            recipes, why = _recipes(inlet, row)
            if recipes:
                groups[tuple(recipes)].append(row)
            elif row.state != State.WAITING or row.reason != why:
                _wait(inlet, row, why)
    for wanted, rows in groups.items():
        _start_run(inlet, list(wanted), rows)


def _recipes(inlet: Inlet, row: Arrival) -> tuple[list[int], str]:
    """The recipes of a file, or why there are none yet."""
    known = inlet.studio.recipes.filter(archived=False)
    if row.chosen:
        return list(row.chosen), ""
    if inlet.choose == Inlet.Choose.ASK:
        return [], "It waits for your choice of recipes."
    if inlet.choose == Inlet.Choose.FOLDER:
        parts = PurePath(row.path).parts
        name = parts[0] if len(parts) > 1 else ""
        named = known.filter(title__iexact=name) if name else known.none()
        shelved = known.filter(current__content__shelf__iexact=name) if name else known.none()
        found = list((named or shelved).values_list("pk", flat=True))
        said = f"No recipe and no shelf is named {name}" if name else "It lies in no subfolder"
        return found, "" if found else f"{said}. Choose recipes for it, or move it."
    found = list(known.filter(pk__in=inlet.recipes).values_list("pk", flat=True))
    return found, "" if found else "The inlet's recipes are archived. Choose others."


def _start_run(inlet: Inlet, recipes: list[int], rows: list[Arrival]) -> None:
    flows.light(inlet, recipes)
    inlet.tray.refresh_from_db()
    photos = [row.photo_id for row in rows if row.photo_id is not None]
    try:
        with transaction.atomic():
            run = start_run(inlet.tray, {(photo, recipe) for photo in photos for recipe in recipes})
            inside = set(run.renditions.values_list("photo_id", flat=True))
            for row in rows:
                row.run, row.state, row.reason = run, State.MAKING, ""
            Arrival.objects.bulk_update([row for row in rows if row.photo_id in inside], ["run", "state", "reason"])
            hint(inlet.studio_id, "inlet", inlet.pk)
    except Problem as problem:
        if problem.title == "Nothing to make":
            # Made before, by an earlier run of the same photo.
            for row in rows:
                _end(inlet, row, State.MADE, "It was made before.")
        else:
            for row in rows:
                if row.reason != problem.detail:
                    _wait(inlet, row, problem.detail)
        return
    for row in rows:
        if row.photo_id not in inside:
            _end(inlet, row, State.MADE, "It was made before.")


def _wait(inlet: Inlet, row: Arrival, why: str) -> None:
    with transaction.atomic():
        Arrival.objects.filter(pk=row.pk).update(state=State.WAITING, reason=why)
        hint(inlet.studio_id, "inlet", inlet.pk)


def _end(inlet: Inlet, row: Arrival, state: str, reason: str = "") -> None:
    with transaction.atomic():
        Arrival.objects.filter(pk=row.pk).update(state=state, reason=reason, finished=timezone.now())
        hint(inlet.studio_id, "inlet", inlet.pk)


def _finish(inlet: Inlet) -> None:
    """End what is made, and put its file away."""
    unfinished = Rendition.objects.filter(run=OuterRef("run"), photo=OuterRef("photo"), state__in=Rendition.UNFINISHED)
    making = inlet.arrivals.filter(~Exists(unfinished), state=State.MAKING).select_related("photo__root")
    for row in making.order_by("id")[:AT_ONCE]:
        made = list(Rendition.objects.filter(run=row.run_id, photo=row.photo_id))
        failed = [each for each in made if each.state in (Rendition.State.FAILED, Rendition.State.STOPPED)]
        if not made or failed:
            reason = failed[0].error or "It was stopped." if failed else "Its run was cleared away."
            _end(inlet, row, State.FAILED, reason)
            continue
        reason = _put_away(inlet, row, made)
        _end(inlet, row, State.MADE, reason)


def _put_away(inlet: Inlet, row: Arrival, made: list[Rendition]) -> str:
    """Do what the inlet says of a file that is made; why it could not be, or ""."""
    if inlet.after == Inlet.After.STAY:
        return ""
    top, source = inlet.folder, inlet.folder / row.path
    try:
        info = source.stat()
        if (info.st_size, info.st_mtime) != (row.size, row.modified):
            return "It was changed meanwhile, and stays."
        if inlet.after == Inlet.After.REMOVE:
            # Only where each receipt is good, and each file is still there.
            if any(each.state != Rendition.State.MADE or files.look(each) or each.differs for each in made):
                return "A receipt differs from its plan, so the file stays."
            source.unlink()
            return ""
        target = top / flows.DONE / row.path
        target.parent.mkdir(parents=True, exist_ok=True)
        number = 2
        while target.exists():
            target = target.with_name(f"{source.stem}-{number}{source.suffix}")
            number += 1
        source.rename(target)
    except FileNotFoundError:
        return ""
    except OSError as error:
        return f"It could not be put away: {(error.strerror or 'an error').lower()}."
    # The tray goes on showing it, where it lies now.
    moved = str(target.relative_to(inlet.root.folder))
    if (
        row.photo is not None
        and not Photo.objects.filter(studio=inlet.studio_id, root=inlet.root_id, path=moved).exists()
    ):
        Photo.objects.filter(pk=row.photo.pk).update(path=moved, name=target.name[-255:])
    return ""
