"""CPU time a photo and peak memory, each way alternating with the others in one run."""

from __future__ import annotations

import multiprocessing
import multiprocessing.connection
import re
import statistics
import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path

import cv2
import numpy as np

from bench import ways
from bench.pictures import write_huge, write_pictures, write_small
from tray_core.batch import Workers, tasks_of
from tray_core.coders import encode
from tray_core.photo import read_facts
from tray_core.pixels.decode import decode
from tray_core.pixels.picture import Picture
from tray_core.recipe.file import JpegFile
from tray_core.weight.score import Scorer

_THOROUGH = JpegFile(format="jpeg", coder="thorough", progressive=True, chroma="420")

Progress = Callable[[str], None]


def _cpu(work: Callable[[], object]) -> float:
    start = time.process_time()
    work()
    return time.process_time() - start


def _peak(paths: list[str], edges: list[int], folder: str, answer: multiprocessing.connection.Connection) -> None:
    for row in ways.plans([Path(path) for path in paths], edges):
        ways.core(row, Path(folder))
    # Not ru_maxrss: a started process inherits the peak of the one that started it.
    status = Path("/proc/self/status").read_text()
    (kilobytes,) = re.findall(r"VmHWM:\s+(\d+) kB", status)
    answer.send(int(kilobytes) / 1024)


def peak_mb(paths: Sequence[Path], edges: Sequence[int], folder: Path) -> float:
    """Peak resident memory in MB of a fresh process that makes renditions of these photos, one after the other."""
    context = multiprocessing.get_context("spawn")
    here, there = context.Pipe()
    process = context.Process(target=_peak, args=(list(map(str, paths)), list(edges), str(folder), there))
    process.start()
    answer: float = here.recv()
    process.join()
    return answer


def _throughput(paths: Sequence[Path], folder: Path, rounds: int) -> float:
    """How many times faster two warm workers finish the same photos than one; median of the rounds."""
    rows = [row for _ in range(4) for row in ways.plans(paths, ways.ONE)]
    ratios = []
    with Workers(1) as one, Workers(2) as two:
        for pool in (one, two):  # libraries loaded, files in the cache
            list(pool.make(tasks_of(rows[: 2 * len(paths)], folder)))
        for _ in range(rounds):
            spent = []
            for pool in (one, two):
                start = time.perf_counter()
                list(pool.make(tasks_of(rows, folder)))
                spent.append(time.perf_counter() - start)
            ratios.append(spent[0] / spent[1])
    return statistics.median(ratios)


def thorough_vs_quick(paths: Sequence[Path]) -> float:
    """Bytes of the thorough JPEG coder against the optimized quick one at equal perceptual score, geometric mean.

    At 1,000 pixels, 4:2:0, over the scores that both reach with qualities of 60 to 95.
    """
    logs = []
    for path in paths:
        facts = read_facts(path)
        data = path.read_bytes()
        pixels = cv2.resize(decode(facts, data, (1000, 667)).pixels, (1000, 667), interpolation=cv2.INTER_AREA)
        picture = Picture(pixels, "RGB", False, None)
        scorer, curves = Scorer(picture), []
        for coder in (JpegFile(format="jpeg", chroma="420"), _THOROUGH):
            files = [encode(picture, coder, quality=quality) for quality in range(60, 96, 5)]
            curves.append(([scorer.score_of_file(each) for each in files], [len(each) for each in files]))
        low, high = max(x[0] for x, _ in curves), min(x[-1] for x, _ in curves)
        for score in np.linspace(low, high, 5):
            quick, thorough = (np.interp(score, x, np.log(y)) for x, y in curves)
            logs.append(thorough - quick)
    return float(np.exp(np.mean(logs)))


def _ratio(ones: Sequence[float], others: Sequence[float]) -> float:
    return statistics.median(one / other for one, other in zip(ones, others, strict=True))


def measure(photos: int = 3, rounds: int = 5, tell: Progress = lambda _: None) -> dict[str, float]:
    """Run everything; times in CPU milliseconds a photo, ratios, peak in MB.

    Every round takes all ways once, one after the other. What is compared was measured a moment apart: the ratios are
    medians of those of each picture in each round, so that a busy neighbor slows both sides alike.
    """
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        tell(f"making {photos} pictures of 24 megapixels")
        paths = write_pictures(folder, photos)
        flat = ways.flat_pictures(paths[0], ways.FIVE)
        one, five = ways.plans(paths, ways.ONE), ways.plans(paths, ways.FIVE)
        spent: dict[str, list[float]] = {}
        for turn in range(rounds + 1):
            tell(f"round {turn} of {rounds}" if turn else "warming up")
            for path, row, rows in zip(paths, one, five, strict=True):
                for way, work in (
                    ("floor_one", lambda path=path: ways.floor(path, ways.ONE, flat)),
                    ("core_one", lambda row=row: ways.core(row, folder)),
                    ("loop_one", lambda path=path: ways.loop(path, ways.ONE, folder)),
                    ("floor_five", lambda path=path: ways.floor(path, ways.FIVE, flat)),
                    ("core_five", lambda rows=rows: ways.core(rows, folder)),
                    *([("loop_five", lambda path=path: ways.loop(path, ways.FIVE, folder))] if turn < 3 else []),
                ):
                    milliseconds = _cpu(work) * 1000
                    if turn:
                        spent.setdefault(way, []).append(milliseconds)
        ms = {way: statistics.median(times) for way, times in spent.items()}
        tell("two workers against one")
        two = _throughput(paths, folder, rounds)
        tell("thorough coder")
        lighter = thorough_vs_quick(paths)
        tell("peak memory")
        peak = peak_mb([paths[0]] * 3, ways.FIVE, folder)
        huge = write_huge(folder)
        peak_huge = peak_mb([huge], ways.FIVE, folder)
        few = write_small(folder, 20)
        many = peak_mb(few * 100, (480,), folder) / peak_mb(few, (480,), folder)
    return {
        **{f"{way}_ms": value for way, value in ms.items()},
        "one_recipe_vs_floor": _ratio(spent["core_one"], spent["floor_one"]),
        "five_recipes_vs_floor": _ratio(spent["core_five"], spent["floor_five"]),
        "one_recipe_vs_loop": _ratio(spent["loop_one"], spent["core_one"]),
        "five_recipes_vs_loop": ms["loop_five"] / ms["core_five"],
        "two_workers_vs_one": two,
        "thorough_vs_quick": lighter,
        "peak_mb": peak,
        "peak_200_mb": peak_huge,
        "peak_2000_vs_20": many,
    }
