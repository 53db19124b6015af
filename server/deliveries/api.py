"""Accounts and deliveries over the API."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, Router, Schema, Status

from server.deliveries import flows
from server.deliveries.models import Account, Delivery
from server.runs.models import Rendition
from server.studios.visitors import studio_of

router = Router(tags=["deliveries"])
PAGE = 200


class AccountIn(Schema):
    """secret: null leaves it as it is. version: of the account that the change began from."""

    name: str = Field(max_length=80)
    kind: str
    settings: dict[str, Any]
    secret: str | None = Field(None, max_length=1000)
    outlet: int | None = None
    use: str = Field("", max_length=60)
    version: int | None = None


class AccountOut(Schema):
    """secret: whether there is one; it is never told. counts: of deliveries, by state."""

    id: int
    name: str
    kind: str
    settings: dict[str, Any]
    secret: bool
    outlet: int | None
    use: str
    paused: bool
    version: int
    counts: dict[str, int]


class TriedOut(Schema):
    """problem: why it does not let us in; "" where it does."""

    problem: str


class PauseIn(Schema):
    paused: bool


class SendIn(Schema):
    """renditions: finished files; all of a run where none are named."""

    run: int | None = None
    renditions: list[int] = []


class AgainIn(Schema):
    deliveries: list[int] | None = None


class CountOut(Schema):
    count: int


class DeliveryOut(Schema):
    """remote: where it is now. error: why it failed, or what it waits for. due: when it is tried again."""

    id: int
    rendition: int
    run: int
    name: str
    bytes: int
    state: str
    tries: int
    remote: str
    remote_sha256: str
    notes: list[str]
    error: str
    due: dt.datetime | None
    finished: dt.datetime | None


class DeliveriesOut(Schema):
    total: int
    deliveries: list[DeliveryOut]


class RunDeliveriesOut(Schema):
    """How a run's files stand at one account."""

    account: int
    name: str
    counts: dict[str, int]


def _find(request: HttpRequest, number: int) -> Account:
    return get_object_or_404(studio_of(request).accounts.select_related("outlet", "studio"), pk=number)


def _out(account: Account) -> AccountOut:
    return AccountOut(
        id=account.pk,
        name=account.name,
        kind=account.kind,
        settings=account.settings,
        secret=bool(account.secret),
        outlet=account.outlet_id,
        use=account.use,
        paused=account.paused,
        version=account.version,
        counts=flows.counts_of(account),
    )


def _keep(request: HttpRequest, account: Account | None, body: AccountIn) -> AccountOut:
    studio = studio_of(request)
    outlet = get_object_or_404(studio.outlets, pk=body.outlet) if body.outlet is not None else None
    given = body.dict(exclude={"outlet"})
    return _out(flows.keep(studio, account, outlet=outlet, **given))


@router.get("/accounts", response=list[AccountOut])
def list_accounts(request: HttpRequest) -> list[AccountOut]:
    return [_out(account) for account in studio_of(request).accounts.all()]


@router.post("/accounts", response=AccountOut)
def create_account(request: HttpRequest, body: AccountIn) -> AccountOut:
    return _keep(request, None, body)


@router.put("/accounts/{number}", response=AccountOut)
def change_account(request: HttpRequest, number: int, body: AccountIn) -> AccountOut:
    return _keep(request, _find(request, number), body)


@router.delete("/accounts/{number}", response={204: None})
def delete_account(request: HttpRequest, number: int) -> Status[None]:
    """Delete an account with its receipts. What was sent stays where it is."""
    _find(request, number).delete()
    return Status(204, None)


@router.post("/accounts/{number}/try", response=TriedOut)
def try_account(request: HttpRequest, number: int) -> TriedOut:
    """Knock at an account, and send nothing."""
    return TriedOut(problem=flows.try_out(_find(request, number)))


@router.post("/accounts/{number}/paused", response=AccountOut)
def pause_account(request: HttpRequest, number: int, body: PauseIn) -> AccountOut:
    flows.pause(_find(request, number), body.paused)
    return _out(_find(request, number))


@router.post("/accounts/{number}/send", response=CountOut)
def send_files(request: HttpRequest, number: int, body: SendIn) -> CountOut:
    """Send finished files; those that were sent there already stay sent. Answers how many are new."""
    account, studio = _find(request, number), studio_of(request)
    rows = Rendition.objects.filter(run__studio=studio, state=Rendition.State.MADE, lost="").order_by("n", "pk")
    if body.renditions or body.run is None:
        rows = rows.filter(pk__in=body.renditions)
    else:
        rows = rows.filter(run=get_object_or_404(studio.runs, pk=body.run))
    return CountOut(count=flows.deliver(account, rows))


@router.post("/accounts/{number}/again", response=CountOut)
def send_again(request: HttpRequest, number: int, body: AgainIn) -> CountOut:
    """Send once more what failed or was stopped."""
    return CountOut(count=flows.again(_find(request, number), body.deliveries))


@router.post("/accounts/{number}/stop", response=CountOut)
def stop_sending(request: HttpRequest, number: int) -> CountOut:
    """Send none of what waits."""
    return CountOut(count=flows.stop(_find(request, number)))


@router.get("/accounts/{number}/deliveries", response=DeliveriesOut)
def list_deliveries(request: HttpRequest, number: int, state: str = "", start: int = 0) -> DeliveriesOut:
    """An account's deliveries, the newest first, a page of them."""
    rows = _find(request, number).deliveries.select_related("rendition").order_by("-id")
    if state:
        rows = rows.filter(state=state)
    begin = min(max(0, start), 2**31)
    return DeliveriesOut(total=rows.count(), deliveries=[_told(each) for each in rows[begin : begin + PAGE]])


def _told(delivery: Delivery) -> DeliveryOut:
    row = delivery.rendition
    return DeliveryOut(
        id=delivery.pk,
        rendition=row.pk,
        run=row.run_id,
        name=Path(row.path).name,
        bytes=(row.receipt or {}).get("bytes", 0),
        state=delivery.state,
        tries=delivery.tries,
        remote=delivery.remote,
        remote_sha256=delivery.remote_sha256,
        notes=delivery.notes,
        error=delivery.error,
        due=delivery.due,
        finished=delivery.finished,
    )


@router.get("/runs/{number}/deliveries", response=list[RunDeliveriesOut])
def run_deliveries(request: HttpRequest, number: int) -> list[RunDeliveriesOut]:
    """Where a run's files were sent."""
    run = get_object_or_404(studio_of(request).runs, pk=number)
    made: dict[int, RunDeliveriesOut] = {}
    for account, name, state in Delivery.objects.filter(rendition__run=run).values_list(
        "account", "account__name", "state"
    ):
        told = made.setdefault(account, RunDeliveriesOut(account=account, name=name, counts={}))
        told.counts[state] = told.counts.get(state, 0) + 1
    return list(made.values())
