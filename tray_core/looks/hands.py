"""Hands beside this process: what touches an original's pixels is done there, and can only end there.

A decoder that a broken file brings down, or that finds no end, costs one answer, not every page.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from queue import Empty, SimpleQueue
from typing import ParamSpec, TypeVar

from tray_core.errors import PhotoError
from tray_core.line import get_ready

P = ParamSpec("P")
R = TypeVar("R")

SECONDS = 120
"""That one piece of work may take."""
_COME_SECOND = 5


class Hands:
    """Some processes, started when they are first wanted, each of them for one piece of work at a time."""

    def __init__(self, count: int) -> None:
        # Each is a pool of one: whatever ends a process ends the one piece of work that it was at.
        self._free: SimpleQueue[ProcessPoolExecutor | None] = SimpleQueue()
        self._count = count
        for _ in range(count):
            self._free.put(None)

    def do(self, name: str, work: Callable[P, R], *given: P.args, **named: P.kwargs) -> R:
        """What `work` gives, or raises, in another process. PhotoError where it ends that process.

        name: of the photo, for the person. work: a function of a module, for what can be pickled.
        """
        hand = self._free.get()
        try:
            hand = hand or _start()
            return hand.submit(_timed, SECONDS, work, given, named).result()
        except BrokenProcessPool as error:
            hand = None
            raise PhotoError(
                name,
                expected=f"a photo that is decoded within {SECONDS / 60:.0f} minutes",
                found="one that ended its decoder",
                remedy="It may be damaged or too large for the memory; leave it out or save it anew.",
            ) from error
        finally:
            self._free.put(hand)

    def offer(self, work: Callable[P, R], *given: P.args, **named: P.kwargs) -> R | None:
        """The same, where a process is there that has nothing to do; None where none is, or where it ended."""
        try:
            hand = self._free.get_nowait()
        except Empty:
            return None
        try:
            return hand.submit(_timed, SECONDS, work, given, named).result() if hand else None
        except BrokenProcessPool:
            hand = None
            return None
        finally:
            self._free.put(hand)

    def wake(self) -> None:
        """Start all of them: they load their libraries while nobody waits for it."""
        for hand in [self._free.get() for _ in range(self._count)]:
            hand = hand or _start()
            hand.submit(get_ready)
            self._free.put(hand)

    def close(self) -> None:
        """End those that are free, and let the others end when they are through."""
        for _ in range(self._free.qsize()):
            if (hand := self._free.get()) is not None:
                hand.shutdown(cancel_futures=True)
            self._free.put(None)


def _start() -> ProcessPoolExecutor:
    # Spawned, not forked: the imaging libraries keep threads and locks that must not be copied.
    return ProcessPoolExecutor(1, multiprocessing.get_context("spawn"), _begin, (os.getpid(),))


def _begin(parent: int) -> None:
    """In the new process: it ends with its parent, however that ended, and only when that says so."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # Pages that answer without any pixel come first.
    os.nice(max(0, _COME_SECOND - os.nice(0)))

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()
    get_ready()


def _timed(seconds: float, work: Callable[..., R], given: tuple[object, ...], named: dict[str, object]) -> R:
    """The system ends the process when the time is over."""
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        return work(*given, **named)
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
