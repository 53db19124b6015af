"""Many photos over many processes: bounded memory, and no photo ever stops the others."""

from __future__ import annotations

import multiprocessing
from collections.abc import Collection, Iterable, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass
from pathlib import Path

from tray_core.errors import PhotoError, TrayError
from tray_core.limits import DEFAULT_LIMITS, Limits
from tray_core.line.line import Outcome, make_renditions
from tray_core.line.preview import read_interest, read_outline
from tray_core.line.ready import get_ready
from tray_core.line.write import FileId
from tray_core.photo import PhotoFacts, read_bytes, read_facts
from tray_core.plan.planning import Plan
from tray_core.words import with_words


@dataclass(frozen=True, slots=True)
class Task:
    """One photo with all the renditions wanted of it and the root that they go below, unless they go beside it."""

    path: Path
    plans: tuple[Plan, ...]
    root: Path


def _run(task: Task, originals: Collection[FileId], limits: Limits) -> list[Outcome]:
    folders = [task.path.parent if plan.recipe.place.to == "beside" else task.root for plan in task.plans]
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

    def read(
        self, paths: Sequence[Path], limits: Limits = DEFAULT_LIMITS, *, outlines: bool = False
    ) -> Iterator[PhotoFacts | TrayError]:
        """The facts of photos with their interest, in the order of `paths`, or why one cannot be read.

        outlines: whether the edge of an object is looked for, too.
        """
        running: dict[Future[PhotoFacts | TrayError], tuple[int, int]] = {}
        waiting = iter(enumerate(paths))

        def hand_out(slot: int) -> None:
            if (found := next(waiting, None)) is not None:
                running[self._pools[slot].submit(_read, found[1], limits, outlines)] = slot, found[0]

        for slot in range(len(self._pools)):
            hand_out(slot)
        read: dict[int, PhotoFacts | TrayError] = {}
        for number in range(len(paths)):
            while number not in read:
                done, _ = wait(running, return_when=FIRST_COMPLETED)
                for future in done:
                    slot, place = running.pop(future)
                    try:
                        read[place] = future.result()
                    except BrokenProcessPool:
                        read[place] = _ended_its_process(paths[place])
                        self._pools[slot] = _start()
                    hand_out(slot)
            yield read.pop(number)

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


class Here:
    """The same as one worker, in this process."""

    def __enter__(self) -> Here:
        return self

    def __exit__(self, *_: object) -> None:
        pass

    def read(
        self, paths: Sequence[Path], limits: Limits = DEFAULT_LIMITS, *, outlines: bool = False
    ) -> Iterator[PhotoFacts | TrayError]:
        """As `Workers.read`."""
        return (_read(path, limits, outlines) for path in paths)

    def make(
        self, tasks: Iterable[Task], originals: Collection[FileId] = (), limits: Limits = DEFAULT_LIMITS
    ) -> Iterator[Outcome]:
        """As `Workers.make`."""
        for task in tasks:
            yield from _run(task, originals, limits)


def workers(count: int) -> Workers | Here:
    """So many worker processes; with one, this process."""
    return Workers(count) if count > 1 else Here()


def _read(path: Path, limits: Limits, outlines: bool) -> PhotoFacts | TrayError:
    try:
        data = read_bytes(path, limits)
        facts = read_interest(read_facts(path, limits, data), data)
        return with_words(read_outline(facts, data) if outlines else facts, data)
    except TrayError as error:
        return error


def _crashed(task: Task) -> list[Outcome]:
    error = _ended_its_process(task.path)
    return [Outcome(plan=plan, number=i, status="failed", error=error) for i, plan in enumerate(task.plans)]


def _ended_its_process(path: Path) -> PhotoError:
    return PhotoError(
        str(path),
        expected="a photo that can be worked",
        found="one that brought its worker process down",
        remedy="It may be damaged or too large for the memory; leave it out or save it anew.",
    )


def tasks_of(plans: Iterable[Sequence[Plan]], root: Path) -> Iterator[Task]:
    """One task for every photo that has plans."""
    return (Task(Path(row[0].photo), tuple(row), root) for row in plans if row)
