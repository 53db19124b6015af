"""Work that never ends: a network drive that is gone, a decoder that hangs. Only the end of its process ends it."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Callable, Iterator

from server.http.connections import let_go
from server.project.conf import conf


@contextlib.contextmanager
def patience(give_up: Callable[[str], None]) -> Iterator[None]:
    """End this process where what is inside takes longer than it may; the supervisor starts a new one.

    give_up: told the reason before, in another thread. It writes down what the work was on, which would be tried again
    otherwise.
    """

    def end() -> None:
        try:
            give_up(
                f"Expected work of at most {conf.job_seconds / 60:.0f} minutes, found no end of it. "
                "Is its drive connected? Look at the file, then try again."
            )
        finally:
            let_go()
            os._exit(1)

    timer = threading.Timer(conf.job_seconds, end)
    timer.daemon = True
    timer.start()
    try:
        yield
    finally:
        timer.cancel()
