"""The server under load: a tray of 10,000 photos against one of 20, alone, with 20 people, with 300 open pages."""

from __future__ import annotations

import contextlib
import re
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from bench.clients import Client, percentile, visit

PROJECT = Path(__file__).parents[1]
PEOPLE, PAGES, STALLED = 20, 300, 40
PAUSE = 2.5
"""Seconds that somebody looks at what came before asking for more."""

WANTED = {"board": 500, "sums": 1000}
"""Milliseconds that 95 of 100 answers may take with many people during a run."""

Tell = Callable[[str], None]


def manage(*arguments: str) -> str:
    """What a management command prints."""
    command = [sys.executable, "server/manage.py", *arguments]
    return subprocess.run(command, cwd=PROJECT, check=True, stdout=subprocess.PIPE, text=True).stdout


@contextlib.contextmanager
def running() -> Iterator[int]:
    """The product's processes, with the demo; gives the port."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port: int = free.getsockname()[1]
    command = [sys.executable, "-m", "server.project.supervise", "--port", str(port)]
    process = subprocess.Popen(command, cwd=PROJECT)
    try:
        for _ in range(300):
            with contextlib.suppress(OSError):
                socket.create_connection(("127.0.0.1", port), 1).close()
                break
            time.sleep(0.1)
        yield port
    finally:
        process.terminate()
        process.wait()


def wait_until_read(client: Client) -> None:
    """Wait for the demo's photos."""
    for _ in range(600):
        trays = client.ask("/api/trays")
        reading = sum(client.ask(f"/api/trays/{tray['id']}/overview")["states"].get("reading", 0) for tray in trays)
        if trays and not reading:
            return
        time.sleep(0.5)
    raise RuntimeError("the demo's photos are not read after five minutes")


def report(tell: Tell) -> bool:
    """Measure and print; whether all that is wanted was reached."""
    with running() as port:
        tell("reading the demo's photos")
        wait_until_read(Client("localhost", port))
    tell("making a tray of 10,000 photos")
    found = re.search(r"/trays/(\d+)", manage("make_large_tray"))
    assert found is not None
    tray = int(found[1])
    tell("measuring the server's work, alone")
    alone = manage("measure_server", str(tray))
    print(alone)
    with running() as port:
        return _visited(port, tray, tell) and "NOT REACHED" not in alone


def _visited(port: int, tray: int, tell: Tell) -> bool:
    client = Client("localhost", port)
    tell("opening the board for the first time")
    start = time.perf_counter()
    board = client.ask(f"/api/trays/{tray}/board")
    print(f"{'first rows, nothing known yet':42}{1000 * (time.perf_counter() - start):>9.0f} ms")
    start = time.perf_counter()
    client.ask(f"/api/trays/{tray}/overview")
    print(f"{'first sums, planned whole':42}{1000 * (time.perf_counter() - start):>9.0f} ms\n")
    rows = {"one person": visit("localhost", port, tray, 1, 15, 0.5)}
    tell(f"opening {PAGES} pages and {STALLED} downloads that nobody reads")
    cells = [[photo, recipe["id"]] for photo in board["photos"][:6] for recipe in board["recipes"]]
    run = client.ask(f"/api/trays/{tray}/runs", {"cells": cells})["id"]
    while client.ask(f"/api/runs/{run}")["counts"]["open"]:
        time.sleep(0.5)
    held = [client.open("/events") for _ in range(PAGES)]
    held += [client.open(f"/api/runs/{run}/zip") for _ in range(STALLED)]
    time.sleep(2)
    rows["and 300 pages"] = visit("localhost", port, tray, 1, 15, 0.5)
    for each in held:
        each.close()
    tell(f"{PEOPLE} people during a run")
    recipe = board["recipes"][-1]["id"]
    again = client.ask(f"/api/trays/{tray}/runs", {"cells": [[photo, recipe] for photo in board["photos"][100:3000]]})
    rows[f"{PEOPLE} in a run"] = visit("localhost", port, tray, PEOPLE, 60, PAUSE)
    left = client.ask(f"/api/runs/{again['id']}")["counts"]["open"]
    client.ask(f"/api/runs/{again['id']}/stop", {})
    print(f"{'p50 / p95, ms':24}" + "".join(f"{name:>22}" for name in rows))
    for what in next(iter(rows.values())):
        points = (f"{percentile(spent[what], 50):.0f} / {percentile(spent[what], 95):.0f}" for spent in rows.values())
        print(f"{what:24}" + "".join(f"{each:>22}" for each in points))
    busy = rows[f"{PEOPLE} in a run"]
    late = [what for what, most in WANTED.items() if percentile(busy[what], 95) > most]
    print(f"\nthe run had {left} renditions to go when the people left")
    for what in late:
        print(f"{what}: 95 of 100 within {WANTED[what]} ms: NOT REACHED")
    return not late
