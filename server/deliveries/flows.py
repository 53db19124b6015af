"""What is done with accounts and deliveries."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import Count

from server.deliveries.models import Account, Delivery
from server.deliveries.senders import KINDS, sender_for
from server.http.connections import let_go
from server.http.problems import Problem
from server.live.hub import hint
from server.outlets.models import Outlet
from server.queue.deferring import DELIVER, defer_all
from server.runs.models import Rendition
from server.studios.models import Studio
from server.studios.sealing import Unreadable, seal
from tray_core import TrayError

FIELDS = {
    "platform": ("address", "user"),
    "folder": ("path",),
    "webdav": ("address", "user"),
    "s3": ("address", "bucket", "user", "region"),
    "sftp": ("host", "port", "user", "path", "key"),
}
"""What the settings of each kind have."""

_NEEDED = {"address", "path", "bucket", "host"}


def check_settings(studio: Studio, kind: str, settings: dict[str, Any]) -> dict[str, str]:
    """Plain settings of a kind; Problem (422) names the field that is wrong."""
    if kind not in KINDS:
        raise _wrong("kind", f"one of {', '.join(KINDS)}", repr(kind), "Choose one of them.")
    made = {name: str(settings.get(name) or "").strip()[:1000] for name in FIELDS[kind]}
    for name, value in made.items():
        if not value and (name in _NEEDED and not (kind == "sftp" and name == "path")):
            raise _wrong(name, "a value", "nothing", "Type it.")
    if "address" in made and not made["address"].startswith(("http://", "https://")):
        raise _wrong("address", "one that begins with https:// or http://", repr(made["address"]), "Correct it.")
    if made.get("port") and not (made["port"].isdecimal() and 0 < int(made["port"]) < 65536):
        raise _wrong("port", "a number from 1 to 65535", repr(made["port"]), "Correct it, or leave it empty for 22.")
    if kind == "folder":
        _check_folder(studio, made["path"])
    return made


def _check_folder(studio: Studio, path: str) -> None:
    """A folder of the studio's: below its output, or below one of its roots that files may be put into."""
    folder = Path(path)
    allowed = [studio.output.resolve(), *(root.folder for root in studio.roots.filter(writable=True))]
    inside = folder.is_absolute() and any(top in (folder.resolve(), *folder.resolve().parents) for top in allowed)
    if not inside:
        told = ", ".join(map(str, allowed))
        remedy = "Choose one there, or ask whoever runs the server to add a root that is writable."
        raise _wrong("path", f"a folder below {told}", repr(path), remedy)


def _wrong(field: str, expected: str, found: str, remedy: str) -> Problem:
    told = {"field": field, "expected": expected, "found": found, "remedy": remedy}
    return Problem(422, "The account is not right", f"{field}: expected {expected}, found {found}. {remedy}", [told])


@transaction.atomic
def keep(
    studio: Studio,
    account: Account | None,
    name: str,
    kind: str,
    settings: dict[str, Any],
    secret: str | None,
    outlet: Outlet | None,
    use: str,
    version: int | None = None,
) -> Account:
    """A new account, or another content for one; Problem (409) where it was changed meanwhile.

    secret: None leaves it as it is.
    """
    called = name.strip()[:80]
    if not called:
        raise _wrong("name", "a name", "nothing", "Type it.")
    namesake = studio.accounts.filter(name=called).first()
    if namesake is not None and namesake != account:
        raise _wrong("name", "a new name", repr(called), "Choose another.")
    if account is not None:
        account = Account.objects.select_for_update().get(pk=account.pk)
        if version is not None and account.version != version:
            raise Problem(409, "The account was changed meanwhile", "Look at it again, then change it.")
    else:
        account = Account(studio=studio, version=0)
    account.name, account.kind = called, kind
    account.settings = check_settings(studio, kind, settings)
    account.outlet, account.use = outlet, use if outlet else ""
    if secret is not None:
        account.secret = seal(secret) if secret else ""
    account.version += 1
    account.save()
    hint(studio.pk, "delivery", account.pk)
    return account


def try_out(account: Account) -> str:
    """Knock at an account: "" where it lets us in, else why not."""
    try:
        sender = sender_for(account.kind, account.core())
    except (Unreadable, TrayError) as error:
        return str(error)
    let_go()
    try:
        sender.check()
    except TrayError as error:
        return str(error)
    finally:
        sender.close()
    return ""


@transaction.atomic
def deliver(account: Account, renditions: Iterable[Rendition]) -> int:
    """Send finished files to an account; those that were sent there already stay sent. Answers how many are new."""
    rows = [row for row in renditions if row.state == Rendition.State.MADE]
    made = Delivery.objects.bulk_create(
        (Delivery(account=account, rendition=row, key=secrets.token_hex(16)) for row in rows), ignore_conflicts=True
    )
    keys = {each.key for each in made}
    new = list(Delivery.objects.filter(account=account, key__in=keys).values_list("pk", flat=True))
    defer_all(DELIVER, ({"delivery_id": number} for number in new))
    hint(account.studio_id, "delivery", account.pk)
    return len(new)


@transaction.atomic
def again(account: Account, deliveries: Iterable[int] | None = None) -> int:
    """Send once more what failed or was stopped: all, or some."""
    found = account.deliveries.filter(state__in=(Delivery.State.FAILED, Delivery.State.STOPPED))
    if deliveries is not None:
        found = found.filter(pk__in=list(deliveries))
    numbers = list(found.select_for_update().values_list("pk", flat=True))
    Delivery.objects.filter(pk__in=numbers).update(
        state=Delivery.State.WAITING, tries=0, error="", due=None, finished=None
    )
    defer_all(DELIVER, ({"delivery_id": number} for number in numbers))
    hint(account.studio_id, "delivery", account.pk)
    return len(numbers)


@transaction.atomic
def pause(account: Account, paused: bool) -> None:
    """Send nothing more for now, or go on."""
    Account.objects.filter(pk=account.pk).update(paused=paused)
    if not paused:
        waiting = account.deliveries.filter(state=Delivery.State.WAITING)
        defer_all(DELIVER, ({"delivery_id": number} for number in waiting.values_list("pk", flat=True)))
    hint(account.studio_id, "delivery", account.pk)


@transaction.atomic
def stop(account: Account) -> int:
    """Send none of what waits; it can be sent again later."""
    stopped = account.deliveries.filter(state=Delivery.State.WAITING).update(state=Delivery.State.STOPPED)
    hint(account.studio_id, "delivery", account.pk)
    return int(stopped)


def counts_of(account: Account) -> dict[str, int]:
    """How many deliveries are in which state."""
    found = dict(account.deliveries.values_list("state").annotate(Count("id")).order_by())
    return {state: found.get(state, 0) for state in Delivery.State.values}
