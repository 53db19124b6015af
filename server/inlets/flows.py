"""What people do with inlets: make them, change them, pause them, choose for what waits."""

from __future__ import annotations

import hashlib
import os
import secrets
from collections.abc import Iterable
from pathlib import Path

from django.db import transaction
from django.db.models import Count

from server.http.problems import Problem
from server.inlets.models import Arrival, Inlet
from server.live.hub import hint
from server.studios.confine import below
from server.studios.models import Root, Studio
from server.studios.sealing import Unreadable, seal, unseal
from server.trays import flows as trays
from tray_core.plan.naming import safe_text

USUAL_IGNORED = ".*\n*.tmp\n*.part\n*.crdownload"
DONE = "done"
"""The subfolder that files go into whose renditions are good."""


def _wrong(field: str, expected: str, found: str, remedy: str) -> Problem:
    told = {"field": field, "expected": expected, "found": found, "remedy": remedy}
    return Problem(422, "The inlet is not right", f"{field}: expected {expected}, found {found}. {remedy}", [told])


def _check_folder(studio: Studio, root: Root, path: str) -> None:
    """Problem where renditions would arrive as originals, and so for ever."""
    folder = below(root, path)
    if not folder.is_dir():
        raise _wrong("path", "a folder", "a file", "Choose a folder.")
    output = studio.output.resolve()
    if output == folder or output in folder.parents or folder in output.parents:
        remedy = "What is made would arrive again and again: choose a folder elsewhere."
        raise _wrong("path", f"a folder apart from the output {output}", str(folder), remedy)


@transaction.atomic
def keep(
    studio: Studio,
    inlet: Inlet | None,
    name: str,
    root: Root,
    path: str,
    choose: str,
    recipes: list[int],
    settle: int,
    ignore: str,
    after: str,
    version: int | None = None,
) -> Inlet:
    """A new inlet with a tray of its own, or another content for one; Problem (409) for an older version."""
    called = name.strip()[:80]
    if not called:
        raise _wrong("name", "a name", "nothing", "Type it.")
    namesake = studio.inlets.filter(name=called).first()
    if namesake is not None and namesake != inlet:
        raise _wrong("name", "a new name", repr(called), "Choose another.")
    path = path.strip("/ ")
    _check_folder(studio, root, path)
    if after != Inlet.After.STAY and not root.writable:
        remedy = "Let files stay, or ask whoever runs the server to mark the root as writable."
        raise _wrong("after", "stay, since nothing may be moved there", after, remedy)
    known = list(studio.recipes.filter(pk__in=recipes, archived=False).values_list("pk", flat=True))
    if choose == Inlet.Choose.FIXED and not known:
        raise _wrong("recipes", "at least one recipe", "none", "Choose some, or let it ask when something arrives.")
    if inlet is not None:
        inlet = Inlet.objects.select_for_update().get(pk=inlet.pk)
        if version is not None and inlet.version != version:
            raise Problem(409, "The inlet was changed meanwhile", "Look at it again, then change it.")
    else:
        token = secrets.token_urlsafe(16)
        inlet = Inlet(studio=studio, version=0, tray=trays.create_tray(studio, called))
        inlet.digest, inlet.sealed = digest_of(token), seal(token)
    inlet.name, inlet.root, inlet.path = called, root, path
    inlet.choose, inlet.recipes, inlet.settle = choose, [each for each in recipes if each in known], settle
    inlet.ignore, inlet.after, inlet.problem = ignore[:2000], after, ""
    inlet.version += 1
    inlet.save()
    if inlet.version == 1:
        trays.light(inlet.tray, inlet.recipes)  # and none of those that new trays usually light
    else:
        light(inlet, inlet.recipes)
    hint(studio.pk, "inlet", inlet.pk)
    return inlet


def light(inlet: Inlet, recipes: Iterable[int]) -> None:
    """Light recipes in the inlet's tray, beside those that are lit already."""
    lit = list(inlet.tray.recipes.values_list("pk", flat=True))
    order = [*(each for each in inlet.tray.order if each in lit), *recipes]
    if set(order) != set(lit):
        trays.light(inlet.tray, order)


@transaction.atomic
def pause(inlet: Inlet, paused: bool) -> None:
    """Take nothing in for now, or go on: what arrived meanwhile comes then."""
    Inlet.objects.filter(pk=inlet.pk).update(paused=paused)
    hint(inlet.studio_id, "inlet", inlet.pk)


@transaction.atomic
def delete(inlet: Inlet) -> None:
    """Watch it no more. Its tray, its files and what was made of them stay."""
    hint(inlet.studio_id, "inlet", inlet.pk)
    inlet.delete()


@transaction.atomic
def choose(inlet: Inlet, recipes: list[int], arrivals: list[int] | None) -> int:
    """Let what waits for a choice, all or some, go through these recipes."""
    known = list(inlet.studio.recipes.filter(pk__in=recipes, archived=False).values_list("pk", flat=True))
    if not known:
        raise _wrong("recipes", "at least one recipe", "none", "Choose some.")
    found = inlet.arrivals.filter(state=Arrival.State.WAITING)
    if arrivals is not None:
        found = found.filter(pk__in=arrivals)
    light(inlet, known)
    count = found.update(chosen=known, reason="")
    hint(inlet.studio_id, "inlet", inlet.pk)
    return int(count)


@transaction.atomic
def again(inlet: Inlet, arrivals: list[int] | None) -> int:
    """Try once more what failed."""
    found = inlet.arrivals.filter(state=Arrival.State.FAILED, photo__isnull=False)
    if arrivals is not None:
        found = found.filter(pk__in=arrivals)
    count = found.update(state=Arrival.State.READING, reason="", finished=None)
    hint(inlet.studio_id, "inlet", inlet.pk)
    return int(count)


def counts_of(inlet: Inlet) -> dict[str, int]:
    """How many arrivals are in which state."""
    found = dict(inlet.arrivals.values_list("state").annotate(Count("id")).order_by())
    return {state: found.get(state, 0) for state in Arrival.State.values}


def digest_of(token: str) -> str:
    """What is kept of a token to know it by."""
    return hashlib.sha256(token.encode()).hexdigest()


def token_of(inlet: Inlet) -> str:
    """The token that files are posted with; "" where the server's key has changed since."""
    try:
        return unseal(inlet.sealed) if inlet.sealed else ""
    except Unreadable:
        return ""


@transaction.atomic
def renew(inlet: Inlet) -> None:
    """Another token: the old one posts nothing any more."""
    token = secrets.token_urlsafe(16)
    Inlet.objects.filter(pk=inlet.pk).update(digest=digest_of(token), sealed=seal(token))
    hint(inlet.studio_id, "inlet", inlet.pk)


def by_token(number: int, token: str) -> Inlet | None:
    """The inlet that a token is for."""
    inlet = Inlet.objects.select_related("root", "studio").filter(pk=number).first()
    good = inlet is not None and inlet.digest and secrets.compare_digest(inlet.digest, digest_of(token))
    return inlet if good else None


def take(inlet: Inlet, name: str, pieces: Iterable[bytes]) -> tuple[str, bool]:
    """Put a file into the inlet's folder, whole or not at all: (its name there, whether it is new).

    The same bytes under the same name are there already; others of the name get a number.
    """
    folder = inlet.folder
    called = safe_text(Path(name).name).strip(" .").encode()[-200:].decode(errors="ignore") or "untitled"
    if not inlet.root.writable:
        raise Problem(409, "The inlet takes no files", f"{inlet.name}: its folder is not marked as writable.")
    part = folder / f".{secrets.token_hex(8)}.part"
    made = hashlib.sha256()
    try:
        with part.open("xb") as file:
            for piece in pieces:
                made.update(piece)
                file.write(piece)
            file.flush()
            os.fsync(file.fileno())
        path = Path(called)
        number = 1
        while True:
            target = folder / (called if number == 1 else f"{path.stem}-{number}{path.suffix}")
            try:
                os.link(part, target)
                return target.name, True
            except FileExistsError:
                if _same(target, made.hexdigest()):
                    return target.name, False
                number += 1
    except OSError as error:
        found = (error.strerror or "an error").lower()
        detail = f"{called}: expected room for it in the inlet's folder, found {found}. Mend that, then send it again."
        raise Problem(507, "The file could not be kept", detail) from error
    finally:
        part.unlink(missing_ok=True)


def _same(path: Path, digest: str) -> bool:
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest() == digest
    except OSError:
        return False
