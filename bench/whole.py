"""The whole way: 60 photos of 24 megapixels by five recipes, through the server and by the command line."""

from __future__ import annotations

import json
import multiprocessing
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from bench.clients import Client
from bench.pictures import write_pictures
from bench.server import PROJECT, Tell, manage, running, wait_until_read
from tray_core import read_recipe_file
from tray_core.fingerprint import content_digest
from tray_core.line import get_ready, make_renditions
from tray_core.line.preview import look_at
from tray_core.photo import DEFAULT_LIMITS, read_bytes, read_facts
from tray_core.plan import plan_all

PHOTOS, DIFFERENT = 60, 6
EDGES = (2048, 1600, 1080, 800, 480)
OFTEN = 2
"""Seconds between two questions of the one who waits for it."""

MOST = 1.1
"""The server's CPU time against the core's."""


def _recipe(edge: int) -> dict[str, object]:
    return {
        "format": "upper-tray/recipe",
        "version": 1,
        "title": f"Long edge {edge}",
        "frame": {"way": "keep"},
        "size": {"by": "long-edge", "pixels": edge, "enlarge": "never"},
        "sharpen": {"strength": 60},
        "color": {"profile": "srgb"},
        "file": {"format": "jpeg", "quality": 84},
        "name": {"pattern": f"{{stem}}-{edge}"},
        "place": {"to": "output", "subfolder": "whole", "taken": "new-name"},
    }


def cpu_seconds(root: int) -> float:
    """CPU time of a process, of all below it, and of those that they waited for."""
    children: dict[int, list[int]] = defaultdict(list)
    spent: dict[int, float] = {}
    for path in Path("/proc").glob("[0-9]*/stat"):
        try:
            number, _, rest = path.read_text().partition(" (")
        except OSError:
            continue
        fields = rest.rpartition(") ")[2].split()
        children[int(fields[1])].append(int(number))
        spent[int(number)] = sum(map(int, fields[11:15])) / os.sysconf("SC_CLK_TCK")
    found, waiting = 0.0, [root]
    while waiting:
        each = waiting.pop()
        found += spent.get(each, 0.0)
        waiting += children[each]
    return found


def _database() -> int:
    """The process of the project's database."""
    for path in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            words = path.read_bytes().split(b"\0")
        except OSError:
            continue
        if b"postgres" in words[0] and os.environ["UPPER_TRAY_DATABASE_PORT"].encode() in words:
            return int(path.parent.name)
    return 0


def _cores(photos: list[Path], recipes: list[Path], out: Path) -> float:
    """CPU seconds of reading, measuring and making everything in as many processes as the server has workers, and
    nothing else: two at once take more CPU time than one after the other, since they share a memory.
    """
    count = os.cpu_count() or 1
    with ProcessPoolExecutor(count, mp_context=multiprocessing.get_context("spawn")) as pool:
        # Each has its libraries loaded before any of them begins.
        for ready in [pool.submit(get_ready) for _ in range(4 * count)]:
            ready.result()
        shares = [pool.submit(_core, photos[number::count], recipes, out / str(number)) for number in range(count)]
        return sum(share.result() for share in shares)


def _core(photos: list[Path], recipes: list[Path], out: Path) -> float:
    get_ready()
    look_at(read_facts(photos[0]), photos[0].read_bytes())
    start = time.process_time()
    cores = [read_recipe_file(path) for path in recipes]
    read = []
    for path in photos:
        data = read_bytes(path, DEFAULT_LIMITS)
        facts = read_facts(path, DEFAULT_LIMITS, data)
        content_digest(data)
        look_at(facts, data)
        read.append(facts)
    for row in plan_all(read, cores):
        for outcome in make_renditions(Path(row[0].photo), row, [out] * len(row)):
            assert outcome.status == "made", outcome.error
    return time.process_time() - start


def _by_command(folder: Path, recipes: list[Path], out: Path) -> tuple[float, float]:
    """(seconds, CPU seconds) of the command line with a worker a core."""
    said = [word for path in recipes for word in ("--recipe", str(path))]
    command = [sys.executable, "-m", "tray_core", "render", *said, "--out", str(out), "--workers", str(os.cpu_count())]
    start = time.perf_counter()
    process = subprocess.Popen(
        [*command, str(folder)], cwd=PROJECT, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    _, status, used = os.wait4(process.pid, 0)
    assert status == 0
    return time.perf_counter() - start, used.ru_utime + used.ru_stime


def _by_server(folder: Path, recipes: list[Path]) -> tuple[float, float]:
    """(seconds, CPU seconds) of gathering, reading and making through the server, its database included."""
    manage("add_root", "Quillmarsh Clock & Automata Museum", "Bench", str(folder))
    with running() as port:
        client = Client("localhost", port)
        numbers = [client.ask("/api/recipes", {"content": json.loads(path.read_text())})["id"] for path in recipes]
        root = next(each["id"] for each in client.ask("/api/roots") if each["name"] == "Bench")
        wait_until_read(client)
        time.sleep(15)  # processes that have just started load their libraries
        roots = [os.getpid(), _database()]
        before, start = sum(map(cpu_seconds, roots)) - time.process_time(), time.perf_counter()
        tray = client.ask("/api/trays", {"name": "Whole way", "folders": [{"root": root, "path": ""}]})["id"]
        client.ask(f"/api/trays/{tray}/recipes", {"recipes": numbers}, "PUT")
        while client.ask(f"/api/trays/{tray}/overview")["states"].get("reading"):
            time.sleep(OFTEN)
        run = client.ask(f"/api/trays/{tray}/runs", {})["id"]
        while (counts := client.ask(f"/api/runs/{run}")["counts"])["open"]:
            time.sleep(OFTEN)
        spent = time.perf_counter() - start
        cpu = sum(map(cpu_seconds, roots)) - time.process_time() - before
        assert counts["made"] == PHOTOS * len(recipes), counts
    return spent, cpu


def report(tell: Tell) -> bool:
    """Measure and print; whether all that is wanted was reached."""
    with tempfile.TemporaryDirectory() as name:
        top = Path(name)
        folder, told = top / "photos", top / "recipes"
        folder.mkdir()
        told.mkdir()
        tell("making photos")
        made = write_pictures(folder, DIFFERENT)
        photos = [Path(shutil.copy(made[i % DIFFERENT], folder / f"whole-{i:02}.jpg")) for i in range(PHOTOS)]
        for path in made:
            path.unlink()
        recipes = []
        for edge in EDGES:
            recipes.append(told / f"{edge}.json")
            recipes[-1].write_text(json.dumps(_recipe(edge)))
        top.chmod(0o755)
        tell("through the server")
        server = _by_server(folder, recipes)
        tell("by the command line")
        command = _by_command(folder, recipes, top / "out")
        tell("by the core alone")
        core = _cores(photos, recipes, top / "alone")
    print(f"{PHOTOS} photos of 24 megapixels, {len(recipes)} recipes{'':14}seconds   CPU seconds")
    print(f"{'through the server, database included':42}{server[0]:>9.1f}{server[1]:>14.1f}")
    print(f"{'by the command line, a worker a core':42}{command[0]:>9.1f}{command[1]:>14.1f}")
    print(f"{'the core alone, a process a core':42}{'':9}{core:>14.1f}\n")
    ratio, slower = server[1] / core, command[0] / server[0]
    print(f"server / core, CPU{ratio:>33.2f}   at most {MOST}   {'' if ratio <= MOST else 'NOT REACHED'}")
    print(f"command line / server, time{slower:>24.2f}   at most 1     {'' if slower <= 1 else 'NOT REACHED'}")
    return ratio <= MOST and slower <= 1
