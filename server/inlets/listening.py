"""Hearing of files at once, where the file system tells (inotify): a look is asked for, which does all the rest.

What tells nothing (network drives), what came while nobody listened, and folders that appear later are found by the
look that comes every few seconds anyway.
"""

from __future__ import annotations

import logging
from contextlib import suppress
from threading import Event

from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued
from watchfiles import watch

from server.http.connections import let_go
from server.inlets.models import Inlet
from server.queue.deferring import LOOK

logger = logging.getLogger(__name__)

ANEW = 10
"""Seconds after which the list of inlets is read anew."""

_RESTS, _STEP = 400, 100
"""Milliseconds that changes are gathered for, and between two looks at what the system told."""


def folders() -> list[str]:
    """The folders that are watched and there."""
    found = Inlet.objects.filter(paused=False).select_related("root")
    there = sorted({str(inlet.folder) for inlet in found if inlet.folder.is_dir()})
    let_go()
    return there


def listen(stop: Event) -> None:
    """Ask for a look whenever something changes in a watched folder, until `stop`."""
    while not stop.is_set():
        try:
            _for_a_while(folders(), stop)
        except Exception:  # of a folder that went, or of a database that is away: begin anew
            logger.exception("listening to watched folders failed")
            stop.wait(ANEW)


def _for_a_while(there: list[str], stop: Event) -> None:
    if not there:
        stop.wait(ANEW)
        return
    heard = watch(
        *there,
        watch_filter=None,
        debounce=_RESTS,
        step=_STEP,
        stop_event=stop,
        rust_timeout=ANEW * 1000,
        yield_on_timeout=True,
        raise_interrupt=False,
    )
    for changes in heard:
        if not changes:
            return  # nothing for a while: the inlets may be others by now
        # One that waits already sees this, too.
        with suppress(AlreadyEnqueued):
            app.tasks[LOOK].defer(timestamp=0)
        let_go()
