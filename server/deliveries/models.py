"""Accounts that finished files are sent to, and what became of each."""

from __future__ import annotations

from django.db import models

from server.deliveries.senders import KINDS
from server.deliveries.senders import Account as SenderAccount
from server.outlets.models import Outlet
from server.runs.models import Rendition
from server.studios.models import Studio
from server.studios.sealing import unseal


class Account(models.Model):
    """A place that files are sent to. settings: as its sender knows them; secret: sealed, never shown again.

    outlet, use: what is sent there is for. paused: nothing is sent until somebody goes on.
    """

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="accounts")
    name = models.CharField(max_length=80)
    kind = models.CharField(max_length=10, choices=[(kind, kind) for kind in KINDS])
    settings = models.JSONField(default=dict)
    secret = models.CharField(max_length=2000, blank=True)
    outlet = models.ForeignKey(Outlet, on_delete=models.SET_NULL, null=True, related_name="+")
    use = models.CharField(max_length=60, blank=True)
    paused = models.BooleanField(default=False)
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["studio", "name"], name="account_once_in_studio")]

    def __str__(self) -> str:
        return self.name

    def core(self) -> SenderAccount:
        """As senders know it; Unreadable where the server's key has changed since."""
        return SenderAccount(self.name, self.settings, unseal(self.secret) if self.secret else "")


class Delivery(models.Model):
    """One finished file on its way to one account.

    key: the same at each try, for whoever takes it. fence: counts who took it to send it; only the last one may write
    down what became of it. remote, remote_sha256: where it is now, and what
    it is there. notes: sentences on its words.
    """

    class State(models.TextChoices):
        WAITING = "waiting"
        SENDING = "sending"
        SENT = "sent"
        FAILED = "failed"
        STOPPED = "stopped"

    account = models.ForeignKey(Account, on_delete=models.CASCADE, related_name="deliveries")
    rendition = models.ForeignKey(Rendition, on_delete=models.CASCADE, related_name="deliveries")
    state = models.CharField(max_length=8, choices=State.choices, default=State.WAITING)
    key = models.CharField(max_length=32, unique=True)
    fence = models.PositiveIntegerField(default=0)
    tries = models.PositiveSmallIntegerField(default=0)
    remote = models.CharField(max_length=2000, blank=True)
    remote_sha256 = models.CharField(max_length=64, blank=True)
    notes = models.JSONField(default=list)
    error = models.TextField(blank=True)
    due = models.DateTimeField(null=True, help_text="not before")
    asked = models.DateTimeField(auto_now_add=True)
    finished = models.DateTimeField(null=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["account", "rendition"], name="delivery_once")]
        indexes = [
            models.Index(fields=["account", "state"]),
            models.Index(fields=["due"], name="delivery_open", condition=models.Q(state__in=("waiting", "sending"))),
        ]

    def __str__(self) -> str:
        return f"{self.rendition_id} to {self.account_id}"
