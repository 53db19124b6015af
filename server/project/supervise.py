"""Starts the web server and the workers, starts them again when they die, stops them all together.

`python -m server.project.supervise --port N [--workers N]`: one worker process a core for pictures, one small
one for recovery that never waits behind them.
"""

from __future__ import annotations

import argparse
import ctypes
import os
import signal
import subprocess
import sys
import time
from dataclasses import dataclass

from server.project.conf import PROJECT, conf

MANAGE = [sys.executable, "server/manage.py"]
UNCHECKED = "--skip-checks"
"""Django would load the whole API only to check it, in each process: half of its start. `prepare` has checked it."""
PATIENCE = 8.0
"""Seconds that a process gets to end by itself."""

_PR_SET_PDEATHSIG = 1
_PIDS = conf.var / "pids"
"""The processes that run, for whoever must end them when the supervisor was killed."""


def _end_with_parent() -> None:
    """End when the one who started this dies, even by kill -9 (Linux prctl)."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


@dataclass
class Program:
    """One process to keep running."""

    name: str
    command: list[str]
    nice: int = 0
    process: subprocess.Popen[bytes] | None = None
    started: float = 0
    quick_deaths: int = 0

    def start(self) -> None:
        self.started = time.monotonic()
        # A session of its own: Ctrl-C reaches the supervisor alone, which ends the others in order.
        self.process = subprocess.Popen(self.command, start_new_session=True, preexec_fn=self._begin)

    def _begin(self) -> None:
        _end_with_parent()
        os.nice(self.nice)

    def keep(self) -> None:
        """Start it again when it died; slower and slower when it dies at once every time."""
        if self.process is None or self.process.poll() is None:
            return
        lived = time.monotonic() - self.started
        if lived < min(30, 2**self.quick_deaths):
            return  # it has died at once before; wait a little longer each time
        self.quick_deaths = self.quick_deaths + 1 if lived < 60 else 0
        print(f"{self.name} ended ({self.process.returncode}); starting it again", file=sys.stderr, flush=True)
        self.start()


def programs(port: int, workers: int, host: str) -> list[Program]:
    """Everything that runs."""
    web = [sys.executable, "-m", "uvicorn", "server.project.asgi:application", "--host", host, "--port", str(port)]
    web += ["--timeout-graceful-shutdown", "2", "--log-level", "warning", "--lifespan", "on"]
    made = [Program("web", web)]
    queues_of = {f"worker-{n}": "make,read" for n in range(1, workers + 1)} | {"system": "system", "sender": "send"}
    for name, queues in queues_of.items():
        command = [
            *MANAGE,
            "procrastinate",
            UNCHECKED,
            "worker",
            "--queues",
            queues,
            "--concurrency",
            {"system": "4", "sender": "3"}.get(name, "1"),
        ]
        command += ["--name", name]
        # People at their pages come first; what is made takes all that they leave.
        made.append(Program(name, command, nice=10 if name.startswith("worker") else 0))
    made.append(Program("listener", [*MANAGE, "listen_to_inlets", UNCHECKED]))
    if conf.demo:
        stand_in = [sys.executable, "-m", "uvicorn", "stand_ins.platform:application", "--log-level", "warning"]
        made.append(Program("stand-in platform", [*stand_in, "--port", str(conf.stand_in_port)]))
    return made


def stop(running: list[Program]) -> None:
    """Ask all to end, workers finishing what they are at; end those that do not."""
    for program in running:
        if program.process is not None and program.process.poll() is None:
            program.process.terminate()
    deadline = time.monotonic() + PATIENCE
    for program in running:
        if program.process is None:
            continue
        try:
            program.process.wait(max(0.1, deadline - time.monotonic()))
        except subprocess.TimeoutExpired:
            program.process.kill()
            program.process.wait()


def main() -> int:
    """Run until told to stop."""
    parser = argparse.ArgumentParser(prog="supervise")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--host", default="127.0.0.1")
    parser.add_argument("--workers", type=int, default=os.cpu_count() or 1)
    given = parser.parse_args()
    stopping = False

    def ask(*_: object) -> None:
        nonlocal stopping
        stopping = True

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, ask)
    os.environ["UPPER_TRAY_SINCE"] = str(time.time())
    running = programs(given.port, given.workers, given.host)
    starter, written = os.getppid(), ""
    _end_with_parent()
    for program in running:
        program.start()
    while not stopping:
        time.sleep(0.3)
        for program in running:
            program.keep()
        numbers = "".join(f"{each.process.pid}\n" for each in running if each.process)
        if numbers != written:
            written = numbers
            _PIDS.write_text(numbers)
    stop(running)
    _PIDS.unlink(missing_ok=True)
    if os.getppid() != starter and os.environ.get("UPPER_TRAY_OWN_DATABASE"):
        # Whoever would have stopped the database is gone.
        subprocess.run([PROJECT / "scripts" / "pg.sh", "stop"], check=False)
    return 0


if __name__ == "__main__":
    sys.exit(main())
