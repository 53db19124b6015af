"""People at their pages: requests to a server that runs, many at once, each of them timed."""

from __future__ import annotations

import contextlib
import http.client
import json
import os
import random
import socket
import statistics
import threading
import time
from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

WINDOW = 20
IDLE = 2
"""Seconds after which a connection is not used again."""


def _password() -> str:
    return (Path(os.environ["UPPER_TRAY_VAR"]) / "demo-password").read_text()


class Client:
    """One browser's connection, signed in to the demo. host, port: of the server."""

    def __init__(self, host: str, port: int) -> None:
        self._connection = http.client.HTTPConnection(host, port, timeout=120)
        self._cookies: dict[str, str] = {}
        self._asked = 0.0
        self.ask("/sign-in")
        form = {"username": "demo", "password": _password(), "csrfmiddlewaretoken": self._cookies["csrftoken"]}
        kind = {"Content-Type": "application/x-www-form-urlencoded"}
        status, _, data = self._send("POST", "/sign-in", urlencode(form), kind)
        if status != 302:
            raise RuntimeError(f"POST /sign-in: {status} {data[:200]!r}")

    def ask(self, path: str, body: Any = None, method: str = "") -> Any:
        """The answer's JSON, or its bytes; RuntimeError where it is none of 200 to 299."""
        method = method or ("GET" if body is None else "POST")
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._cookies.get("csrftoken", "")}
        status, kind, data = self._send(method, path, *((None, {}) if body is None else (json.dumps(body), headers)))
        if not 200 <= status < 300:
            raise RuntimeError(f"{method} {path}: {status} {data[:200]!r}")
        return json.loads(data) if data and "json" in kind else data

    def _send(self, method: str, path: str, body: str | None, headers: dict[str, str]) -> tuple[int, str, bytes]:
        """Status, content type and body of the answer."""
        headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self._cookies.items()), **headers}
        if time.monotonic() - self._asked > IDLE:
            self._connection.close()  # as the server may have done; it is opened again by the next question
        self._asked = time.monotonic()
        self._connection.request(method, path, body, headers)
        answer = self._connection.getresponse()
        data = answer.read()
        for cookie in answer.headers.get_all("Set-Cookie") or ():
            name, _, rest = cookie.partition("=")
            self._cookies[name] = rest.partition(";")[0]
        return answer.status, answer.headers.get("Content-Type", ""), data

    def open(self, path: str) -> socket.socket:
        """A connection of its own that asks for `path` and reads nothing of the answer."""
        found = socket.create_connection((self._connection.host, self._connection.port or 80), 30)
        found.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
        cookies = "; ".join(f"{name}={value}" for name, value in self._cookies.items())
        found.sendall(f"GET {path} HTTP/1.1\r\nHost: localhost\r\nCookie: {cookies}\r\n\r\n".encode())
        return found


class Visit:
    """What one person does at a board, again and again; how long each answer took, in seconds."""

    def __init__(self, client: Client, tray: int, chance: random.Random) -> None:
        self._client, self._tray, self._chance = client, tray, chance
        self.spent: dict[str, list[float]] = defaultdict(list)
        self._photos: list[int] = []

    @contextlib.contextmanager
    def _timed(self, what: str) -> Iterator[None]:
        start = time.perf_counter()
        yield
        self.spent[what].append(time.perf_counter() - start)

    def once(self, pause: float = 0.0) -> None:
        """Open the board, scroll, look at pictures, read the sums. pause: seconds between two of these."""
        at = f"/api/trays/{self._tray}"
        with self._timed("board"):
            self._photos = self._client.ask(f"{at}/board")["photos"]
        for _ in range(3):
            time.sleep(pause)
            start = self._chance.randrange(max(1, len(self._photos) - WINDOW))
            with self._timed(f"rows of {WINDOW} photos"):
                rows = self._client.ask(f"{at}/rows", {"photos": self._photos[start : start + WINDOW]})
            cells = [
                {"photo": row["photo"]["id"], "version": row["cells"][0]["version"]} for row in rows if row["cells"]
            ]
            with self._timed("12 cells' pictures"):
                self._client.ask("/api/pictures/cells", {"cells": cells, "edge": 320})
        time.sleep(pause)
        with self._timed("sums"):
            self._client.ask(f"{at}/overview")


def visit(host: str, port: int, tray: int, people: int, seconds: float, pause: float) -> dict[str, list[float]]:
    """Let some people work at a tray at once for a while; all that they waited for, by what it was."""
    visits = [Visit(Client(host, port), tray, random.Random(number)) for number in range(people)]
    failed: list[BaseException] = []
    end = time.monotonic() + seconds

    def work(visit: Visit, late: float) -> None:
        try:
            time.sleep(late)
            while time.monotonic() < end:
                visit.once(pause)
        except Exception as error:
            failed.append(error)

    # Nobody comes in the same moment as everybody else: they are spread over what one of them takes.
    threads = [
        threading.Thread(target=work, args=(each, 4 * pause * number / people)) for number, each in enumerate(visits)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    if failed:
        raise failed[0]
    spent: dict[str, list[float]] = defaultdict(list)
    for each in visits:
        for what, times in each.spent.items():
            spent[what] += times
    return spent


def percentile(times: Sequence[float], share: int) -> float:
    """The `share` per cent point of some times, in milliseconds."""
    points = statistics.quantiles(times, n=100, method="inclusive") if len(times) > 1 else [times[0]] * 99
    return 1000 * points[share - 1]
