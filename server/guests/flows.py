"""What is done with links, by the studio and by those who have one."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterable
from datetime import timedelta

from django.contrib.auth.hashers import check_password, make_password
from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import F
from django.utils import timezone

from server.guests.models import Comment, Guest, Item, Link, Verdict
from server.http.connections import let_go
from server.http.problems import Problem
from server.live.hub import hint
from server.photos.models import Photo
from server.runs.models import Rendition
from server.studios.models import Studio
from server.studios.sealing import seal
from tray_core.plan.naming import safe_text

MOST_ITEMS = 500
MOST_DAYS = 365
MOST_GUESTS, MOST_COMMENTS = 50, 500
"""Of one link: guests, and comments of one guest."""


def digest_of(secret: str) -> str:
    """What is kept of a link's secret to find it by. Of 128 random bits, so that one round of hashing is enough."""
    return hashlib.sha256(secret.encode()).hexdigest()


@transaction.atomic
def create(
    studio: Studio,
    user: AbstractBaseUser | None,
    kind: str,
    name: str,
    renditions: Iterable[int],
    days: int,
    passphrase: str = "",
    wanted: int | None = None,
    stamp: str = "",
) -> tuple[Link, str]:
    """A link to finished files of the studio, in this order, and its secret. Problem where none of them is there."""
    numbers = list(dict.fromkeys(renditions))
    if len(numbers) > MOST_ITEMS:
        raise Problem(422, "Too many files", f"Expected {MOST_ITEMS} at most, found {len(numbers)}. Make two links.")
    found = Rendition.objects.filter(pk__in=numbers, run__studio=studio, state=Rendition.State.MADE).in_bulk()
    there = [number for number in numbers if number in found]
    if not there:
        raise Problem(422, "Nothing to hand over", "Expected finished files, found none. Make them first.")
    secret = secrets.token_urlsafe(16)
    link = Link.objects.create(
        studio=studio,
        kind=kind,
        name=safe_text(name).strip()[:80] or ("Pick-up" if kind == Link.Kind.PICKUP else "Proof room"),
        digest=digest_of(secret),
        sealed=seal(secret),
        passphrase=make_password(passphrase) if passphrase else "",
        expires=timezone.now() + timedelta(days=min(MOST_DAYS, max(1, days))),
        wanted=wanted if kind == Link.Kind.PROOF else None,
        stamp=stamp.strip()[:60] or "PROOF" if kind == Link.Kind.PROOF else "",
        made_by=user if user is not None and user.pk else None,  # type: ignore[misc]
    )
    Item.objects.bulk_create([Item(link=link, rendition_id=each, position=place) for place, each in enumerate(there)])
    hint(studio.pk, "link", link.pk)
    return link, secret


@transaction.atomic
def withdraw(link: Link, withdrawn: bool) -> None:
    """Take a link back, or let it open again until it expires."""
    link.withdrawn = withdrawn
    link.save(update_fields=["withdrawn"])
    hint(link.studio_id, "link", link.pk)


def find_good(number: int) -> Link:
    """The link of that number, if it still opens. Problem (410) says the same of one that never was."""
    link = Link.objects.select_related("studio").filter(pk=number).first()
    if link is None or not link.good:
        raise Problem(410, "This link has ended", "Ask whoever sent it to you for a new one.")
    return link


def open_by(link: Link, secret: str, passphrase: str) -> None:
    """Check what somebody brings to a link; Problem (403) where it does not fit, (401) where it wants a passphrase."""
    if not secrets.compare_digest(digest_of(secret), link.digest):
        raise Problem(410, "This link has ended", "Ask whoever sent it to you for a new one.")
    if link.passphrase:
        if not passphrase:
            raise Problem(401, "It wants a passphrase", "Type the passphrase that came with the link.")
        let_go()
        if not check_password(passphrase, link.passphrase):
            raise Problem(403, "Another passphrase", "That is not its passphrase. Look at what came with the link.")


@transaction.atomic
def come_in(link: Link, name: str) -> Guest | None:
    """Count a visit; to a proof room it gives the guest of that name, new or come back."""
    Link.objects.filter(pk=link.pk).update(opened=F("opened") + 1)
    hint(link.studio_id, "link", link.pk)
    if link.kind == Link.Kind.PICKUP:
        return None
    called = safe_text(name).strip()[:60] or "Guest"
    guest = link.guests.filter(name__iexact=called).first()
    if guest is None and link.guests.count() >= MOST_GUESTS:
        raise Problem(409, "The room is full", f"It has {MOST_GUESTS} guests. Use a name that was here before.")
    return guest or Guest.objects.create(link=link, name=called)


@transaction.atomic
def judge(guest: Guest, item: Item, says: str | None) -> None:
    """Say yes, maybe or no of a proof, or nothing any more (None)."""
    if says is None:
        Verdict.objects.filter(guest=guest, item=item).delete()
    else:
        Verdict.objects.update_or_create(guest=guest, item=item, defaults={"says": says})
    _undone(guest)
    hint(guest.link.studio_id, "link", guest.link_id)


@transaction.atomic
def comment(guest: Guest, item: Item, text: str, x: float | None, y: float | None) -> Comment:
    """Write something of a proof. Problem where there is nothing to write, or far too much."""
    said = text.strip()[:1000]
    if not said:
        raise Problem(422, "Nothing written", "Type what you want to say of the picture.")
    if guest.comments.count() >= MOST_COMMENTS:
        raise Problem(409, "Too many comments", f"You wrote {MOST_COMMENTS} already. Delete some first.")
    made = Comment.objects.create(guest=guest, item=item, text=said, x=x, y=y)
    _undone(guest)
    hint(guest.link.studio_id, "link", guest.link_id)
    return made


@transaction.atomic
def finish(guest: Guest, done: bool) -> None:
    """Say that one is through, or not yet."""
    guest.done = done
    guest.save(update_fields=["done"])
    hint(guest.link.studio_id, "link", guest.link_id)


def _undone(guest: Guest) -> None:
    if guest.done:
        guest.done = False
        guest.save(update_fields=["done"])


def picked(studio: Studio, number: int, says: str) -> list[int]:
    """The photos that any guest of a link says this of, for a board's filter."""
    said = Verdict.objects.filter(item__link=number, item__link__studio=studio, says=says)
    return list(Photo.objects.filter(pk__in=said.values("item__rendition__photo")).values_list("pk", flat=True))
