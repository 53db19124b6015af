"""One delivery, from its file to its receipt; safe to run again after any end."""

from __future__ import annotations

from datetime import timedelta
from pathlib import Path

from django.db import transaction
from django.db.models import F
from django.utils import timezone
from procrastinate.contrib.django import app

from server.deliveries.models import Delivery
from server.deliveries.senders import Parcel, Sent, Wait, sender_for
from server.http.connections import let_go
from server.live.hub import hint
from server.queue.deferring import DELIVER
from server.runs import files
from server.runs.recovery import without_job
from server.studios.sealing import Unreadable
from tray_core import TrayError
from tray_core.outlets.words import words_for

MOST_TRIES = 8
FIRST, LONGEST = 4.0, 900.0
"""Seconds until the second try, twice as long each time, and the longest."""


def send(number: int) -> None:
    """Send one delivery, if it waits; put it off where something is in the way."""
    found = _take(number)
    if found is None:
        return
    delivery, parcel = found
    try:
        sent = _brought(delivery, parcel)
    except Wait as error:
        _put_off(delivery, error)
    except (TrayError, Unreadable) as error:
        _end(delivery, Delivery.State.FAILED, str(error))
    else:
        if sent.sha256 and sent.sha256 != parcel.sha256:
            told = (
                f"{delivery.account.name}: expected the file that was sent, found another one there. Look at it there."
            )
            _end(delivery, Delivery.State.FAILED, told, sent)
        else:
            _end(delivery, Delivery.State.SENT, "", sent)


def _take(number: int) -> tuple[Delivery, Parcel] | None:
    """Take a delivery to send it: whoever took it before may not write down what becomes of it any more."""
    with transaction.atomic():
        rows = Delivery.objects.select_for_update(of=("self",)).select_related(
            "account__outlet", "account__studio", "rendition__photo"
        )
        delivery = rows.filter(pk=number).first()
        if delivery is None or delivery.state not in (Delivery.State.WAITING, Delivery.State.SENDING):
            return None
        if delivery.account.paused or (delivery.due is not None and delivery.due > timezone.now()):
            return None
        row = delivery.rendition
        if files.look(row):
            told = f"{row.name}: expected the file that was made, found none or another. Make it again, then send it."
            _end(delivery, Delivery.State.FAILED, told)
            return None
        delivery.state, delivery.fence, delivery.tries = Delivery.State.SENDING, delivery.fence + 1, delivery.tries + 1
        delivery.save(update_fields=["state", "fence", "tries"])
        hint(delivery.account.studio_id, "delivery", delivery.account_id)
    outlet = delivery.account.outlet.core() if delivery.account.outlet else None
    words, notes = words_for(outlet.words, row.photo.words) if outlet else ({}, [])
    delivery.notes = notes
    receipt = row.receipt or {}
    return delivery, Parcel(
        file=Path(row.path),
        name=Path(row.path).name,
        folder=row.folder,
        bytes=receipt["bytes"],
        sha256=receipt["sha256"],
        key=delivery.key,
        outlet=outlet.name if outlet else "",
        use=delivery.account.use,
        words=words,
    )


def _brought(delivery: Delivery, parcel: Parcel) -> Sent:
    sender = sender_for(delivery.account.kind, delivery.account.core())
    let_go()
    try:
        return sender.send(parcel)
    finally:
        sender.close()


def _put_off(delivery: Delivery, error: Wait) -> None:
    if delivery.tries >= MOST_TRIES:
        _end(delivery, Delivery.State.FAILED, f"{error} It was tried {delivery.tries} times.")
        return
    seconds = max(error.seconds or 0, min(LONGEST, FIRST * 2 ** (delivery.tries - 1)))
    with transaction.atomic():
        mine = Delivery.objects.filter(pk=delivery.pk, fence=delivery.fence, state=Delivery.State.SENDING)
        due = timezone.now() + timedelta(seconds=seconds)
        if mine.update(state=Delivery.State.WAITING, error=str(error), due=due):
            app.tasks[DELIVER].configure(schedule_at=due + timedelta(milliseconds=50)).defer(delivery_id=delivery.pk)
            hint(delivery.account.studio_id, "delivery", delivery.account_id)


def _end(delivery: Delivery, state: str, error: str, sent: Sent | None = None) -> None:
    with transaction.atomic():
        mine = Delivery.objects.filter(pk=delivery.pk, fence=delivery.fence)
        mine.update(
            state=state,
            error=error,
            due=None,
            notes=delivery.notes,
            remote=sent.address[:2000] if sent else F("remote"),
            remote_sha256=sent.sha256[:64] if sent else F("remote_sha256"),
            finished=timezone.now(),
        )
        hint(delivery.account.studio_id, "delivery", delivery.account_id)


def give_out_again() -> None:
    """Give out again what is open and due and has no job: after a death, or a job that was lost."""
    found = without_job(
        "SELECT d.id FROM deliveries_delivery d JOIN deliveries_account a ON a.id = d.account_id AND NOT a.paused "
        "WHERE d.state IN ('waiting', 'sending') AND d.asked < now() - interval '5 seconds' "
        "AND (d.due IS NULL OR d.due < now() - interval '5 seconds')",
        DELIVER,
        ("delivery_id",),
    )
    for (number,) in found:
        app.tasks[DELIVER].defer(delivery_id=number)
