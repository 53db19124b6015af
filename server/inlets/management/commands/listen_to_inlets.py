"""Listen to watched folders; the supervisor keeps it running."""

from __future__ import annotations

import signal
from threading import Event
from typing import Any

from django.core.management.base import BaseCommand

from server.inlets.listening import listen


class Command(BaseCommand):
    help = "Ask for a look at inlets whenever something changes in their folders."

    def handle(self, *args: Any, **options: Any) -> None:
        stop = Event()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, lambda *_: stop.set())
        listen(stop)
