"""Many photos over many processes: bounded memory, and no photo ever stops the others."""

from __future__ import annotations

import multiprocessing
from collections.abc import Collection, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path

from tray_core.errors import PhotoError
from tray_core.line.line import Outcome, make_renditions
from tray_core.line.write import FileId
from tray_core.photo.limits import DEFAULT_LIMITS, Limits
from tray_core.plan.planning import Plan

AHEAD = 2
"""How many photos are handed out per worker before one comes back."""


@dataclass(frozen=True, slots=True)
class Task:
    """One photo with all the renditions wanted of it and the root that they go below."""

    path: Path
    plans: tuple[Plan, ...]
    root: Path


def _run(task: Task, originals: Collection[FileId], limits: Limits) -> list[Outcome]:
    folders = [task.root] * len(task.plans)
    return list(make_renditions(task.path, task.plans, folders, originals=originals, limits=limits))


def warm_up() -> None:
    """Nothing, in a worker: by the time it returns, the imaging libraries are loaded there."""


class Workers:
    """A pool of worker processes that outlives a batch, so that starting up is paid for once."""

    def __init__(self, count: int) -> None:
        self.count = count
        self._pool = self._start()

    def _start(self) -> ProcessPoolExecutor:
        # Spawned, not forked: the imaging libraries keep threads and locks that must not be copied.
        return ProcessPoolExecutor(self.count, mp_context=multiprocessing.get_context("spawn"))

    def __enter__(self) -> Workers:
        for future in [self._pool.submit(warm_up) for _ in range(self.count)]:
            future.result()
        return self

    def __exit__(self, *_: object) -> None:
        self._pool.shutdown(cancel_futures=True)

    def make(
        self, tasks: Iterable[Task], originals: Collection[FileId] = (), limits: Limits = DEFAULT_LIMITS
    ) -> Iterator[Outcome]:
        """Make all tasks, yielding outcomes as they come.

        A photo that takes its worker down with it (out of memory, a crash in a decoder) fails alone:
        what was under way with it is done again, one photo at a time.
        """
        waiting = iter(tasks)
        running: dict[Future[list[Outcome]], Task] = {}
        suspects: list[Task] = []
        while True:
            while len(running) < self.count * AHEAD and (task := next(waiting, None)) is not None:
                running[self._pool.submit(_run, task, originals, limits)] = task
            if not running:
                return
            done, _ = wait(running, return_when=FIRST_COMPLETED)
            for future in done:
                task = running.pop(future)
                try:
                    yield from future.result()
                except BrokenProcessPool:
                    suspects.append(task)
            if suspects:
                suspects += running.values()
                running.clear()
                for task in suspects:
                    yield from self._alone(task, originals, limits)
                suspects = []

    def _alone(self, task: Task, originals: Collection[FileId], limits: Limits) -> list[Outcome]:
        self._pool.shutdown(wait=False, cancel_futures=True)
        self._pool = self._start()
        try:
            return self._pool.submit(_run, task, originals, limits).result()
        except BrokenProcessPool:
            self._pool = self._start()
            error = PhotoError(
                str(task.path),
                expected="a photo that can be worked",
                found="one that brought its worker process down",
                remedy="It may be damaged or too large for the memory; leave it out or save it anew.",
            )
            return [Outcome(plan=plan, status="failed", error=error) for plan in task.plans]


def make_all(
    tasks: Iterable[Task],
    *,
    workers: int = 1,
    originals: Collection[FileId] = (),
    limits: Limits = DEFAULT_LIMITS,
) -> Iterator[Outcome]:
    """Make all tasks: in this process with one worker, in a pool of its own with more."""
    if workers > 1:
        with Workers(workers) as pool:
            yield from pool.make(tasks, originals, limits)
        return
    for task in tasks:
        yield from _run(task, originals, limits)


def tasks_of(plans: Iterable[Sequence[Plan]], root: Path) -> Iterator[Task]:
    """One task for every photo that has plans."""
    return (Task(Path(row[0].photo), tuple(row), root) for row in plans if row)
