"""Many photos over many processes: bounded memory, and no photo ever stops the others."""

from __future__ import annotations

import multiprocessing
from collections.abc import Collection, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path

from tray_core.errors import PhotoError
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.line import Outcome, make_renditions
from tray_core.line.ready import get_ready
from tray_core.line.write import FileId
from tray_core.plan.planning import Plan


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
    """In a worker: by the time it returns, the imaging libraries and the compiled code are loaded there."""
    get_ready()


def _start() -> ProcessPoolExecutor:
    # Spawned, not forked: the imaging libraries keep threads and locks that must not be copied.
    return ProcessPoolExecutor(1, mp_context=multiprocessing.get_context("spawn"))


class Workers:
    """Worker processes that outlive a batch, so that starting up is paid for once.

    Each is a pool of one: a crash in a decoder ends one process, and only the photo that it was at.
    """

    def __init__(self, count: int) -> None:
        self._pools = [_start() for _ in range(count)]

    def __enter__(self) -> Workers:
        for future in [pool.submit(warm_up) for pool in self._pools]:
            future.result()
        return self

    def __exit__(self, *_: object) -> None:
        for pool in self._pools:
            pool.shutdown(cancel_futures=True)

    def make(
        self, tasks: Iterable[Task], originals: Collection[FileId] = (), limits: Limits = DEFAULT_LIMITS
    ) -> Iterator[Outcome]:
        """Make all tasks, yielding outcomes as they come; a photo that ends its worker fails alone."""
        waiting = iter(tasks)
        running: dict[Future[list[Outcome]], tuple[int, Task]] = {}

        def hand_out(slot: int) -> None:
            if (task := next(waiting, None)) is not None:
                running[self._pools[slot].submit(_run, task, originals, limits)] = slot, task

        for slot in range(len(self._pools)):
            hand_out(slot)
        while running:
            done, _ = wait(running, return_when=FIRST_COMPLETED)
            for future in done:
                slot, task = running.pop(future)
                try:
                    outcomes = future.result()
                except BrokenProcessPool:
                    outcomes = _crashed(task)
                    self._pools[slot] = _start()
                hand_out(slot)
                yield from outcomes


def _crashed(task: Task) -> list[Outcome]:
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
