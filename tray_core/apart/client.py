"""This side of the other process: started when first wanted, ended when it takes too long, then started anew."""

from __future__ import annotations

import atexit
import contextlib
import os
import signal
import subprocess
import sys
import threading
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tray_core.apart.wire import receive, send
from tray_core.errors import DamagedPhoto, PhotoError, PhotoTooLarge
from tray_core.limits import Limits

_PACKAGES = Path(__file__).resolve().parents[2]
_GRACE = 4
"""How many times its CPU time a decoder may take by the clock: others may be busy too."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What a reader found. head: facts, or the picture's shape and kind. parts: the profile, then the pixels."""

    head: dict[str, Any]
    parts: list[bytearray]


class _Helper:
    """One process, for one question at a time."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        self.lock = threading.Lock()

    def stop(self) -> None:
        """End the process; nothing happens where there is none."""
        process, self._process = self._process, None
        if process is None:
            return
        process.kill()
        for pipe in (process.stdin, process.stdout):
            if pipe is not None:
                with contextlib.suppress(OSError):
                    pipe.close()
        process.wait()

    def _running(self) -> subprocess.Popen[bytes]:
        if self._process is None or self._process.poll() is not None:
            self.stop()
            self._process = subprocess.Popen(
                [sys.executable, "-m", "tray_core.readers.child"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.DEVNULL,
                cwd=_PACKAGES,
                env={"PATH": os.defpath, "PYTHONPATH": str(_PACKAGES), "LC_ALL": "C.UTF-8"},
            )
        return self._process

    def ask(self, question: dict[str, Any], data: bytes, seconds: int) -> tuple[Answer | None, str]:
        """The answer, or None and what became of the process."""
        process = self._running()
        assert process.stdin is not None and process.stdout is not None
        late = threading.Event()

        def end() -> None:
            late.set()
            process.kill()

        timer = threading.Timer(seconds * _GRACE, end)
        timer.daemon = True
        timer.start()
        try:
            send(process.stdin, {**question, "seconds": seconds}, data)
            return Answer(*receive(process.stdout)), ""
        except (OSError, EOFError, ValueError):
            process.kill()
            code = process.wait()
            self.stop()
            if late.is_set() or code == -signal.SIGXCPU:
                return None, f"one that takes longer than {seconds} s to decode"
            if code == -signal.SIGKILL:
                return None, "one that needs more memory than it may"
            return None, "one that ends its decoder"
        finally:
            timer.cancel()


_HELPER = _Helper()
atexit.register(_HELPER.stop)
if hasattr(os, "register_at_fork"):
    # A forked child must not talk through its parent's pipes.
    os.register_at_fork(after_in_child=lambda: globals().__setitem__("_HELPER", _Helper()))


def ask(do: str, kind: str, path: str, data: bytes, limits: Limits, **more: Any) -> Answer:
    """Have `data`, a photo of `kind`, read in the other process. do: "facts", "decode", or "preview" of camera raw.

    Raises DamagedPhoto or PhotoTooLarge that names `path`; never anything else for bad content.
    """
    helper = _HELPER
    with helper.lock:
        question = {"do": do, "kind": kind, "pixels": limits.pixels, **more}
        answer, ended = helper.ask(question, data, limits.seconds)
    if answer is None:
        raise DamagedPhoto(
            path,
            expected=f"a {kind} picture that can be decoded safely",
            found=ended,
            remedy="Save it anew from the program that made it, or leave it out.",
        )
    if (problem := answer.head.get("problem")) is not None:
        error: type[PhotoError] = PhotoTooLarge if answer.head.get("large") else DamagedPhoto
        raise error(path, **problem)
    return answer
