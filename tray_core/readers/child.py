"""The other process: answers one question after the other until its input ends."""

from __future__ import annotations

import contextlib
import io
import os
import resource
import sys
import warnings
from pathlib import Path
from typing import Any

import numpy as np

from tray_core.apart.wire import receive, send
from tray_core.photo.damage import check_pixels, wrong_with
from tray_core.readers.kinds import READERS
from tray_core.readers.raw import camera_preview, develop, is_raw
from tray_core.readers.sandbox import readable, shut_in
from tray_core.tone import Development

_MOST, _LEAST = 12 << 30, 3 << 30
"""Bytes of address space: 500 megapixels of 16 bits a channel and what decoders need beside them; and what the
libraries want for themselves.
"""
_PAGES, _PAGE_BYTES = ("PDF", "SVG"), 2 << 30
_CONTAINER = Path("/sys/fs/cgroup/memory.max")


def _addresses() -> int:
    """As much as the machine or the container has, within reason, and no more than somebody allowed already."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    with contextlib.suppress(OSError, ValueError):  # no container, or one without a limit
        memory = min(memory, int(_CONTAINER.read_text()))
    wanted = min(_MOST, max(_LEAST, memory))
    _, allowed = resource.getrlimit(resource.RLIMIT_AS)
    return wanted if allowed == resource.RLIM_INFINITY else min(wanted, allowed)


def _limit(seconds: int) -> None:
    """Give this question `seconds` of CPU time from now; the system ends the process after them."""
    used = resource.getrusage(resource.RUSAGE_SELF)
    resource.setrlimit(resource.RLIMIT_CPU, (int(used.ru_utime + used.ru_stime) + seconds + 1, resource.RLIM_INFINITY))


def _room(kind: str, addresses: int, used: int) -> None:
    """Pages and drawings may ask for any amount of work: they get less memory than pictures that declare their size."""
    wanted = addresses
    if kind in _PAGES:
        pages = int(os.pread(used, 100, 0).split()[0]) * os.sysconf("SC_PAGE_SIZE")
        wanted = min(addresses, pages + _PAGE_BYTES)
    resource.setrlimit(resource.RLIMIT_AS, (wanted, addresses))


def _problem(kind: str, error: BaseException) -> dict[str, Any]:
    wrong = wrong_with(kind, error)
    found = {"expected": wrong.expected, "found": wrong.found, "remedy": wrong.remedy}
    return {"problem": found, "large": wrong.large}


def answered(question: dict[str, Any], data: bytes) -> tuple[dict[str, Any], list[bytes | memoryview]]:
    """The answer to one question: facts, a picture, or what is wrong."""
    kind = question["kind"]
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            if kind == "camera raw?":
                return {"facts": {"raw": is_raw(data)}}, []
            if question["do"] == "preview":
                jpeg, turns = camera_preview(data)
                return {"turns": turns}, [jpeg]
            reader = READERS[kind]
            if question["do"] == "facts":
                facts, icc = reader.facts(data)
                check_pixels(facts["width"], facts["height"], question["pixels"])
                return {"facts": facts, "has_icc": icc is not None}, [icc or b""]
            wanted, most = tuple(question["wanted"]), question["pixels"]
            if "development" in question:
                picture = develop(data, wanted, most, Development(*question["development"]))
            else:
                picture = reader.decode(data, wanted, most)
        pixels = np.ascontiguousarray(picture.pixels)
        head = {
            "shape": pixels.shape,
            "dtype": str(pixels.dtype),
            "space": picture.space,
            "alpha": picture.alpha,
            "extent": picture.extent,
            "has_icc": picture.icc is not None,
        }
        return head, [picture.icc or b"", memoryview(pixels.data).cast("B")]
    except BaseException as error:  # the one boundary to foreign decoders, which raise anything
        return _problem(kind, error), []


def main() -> None:
    """Serve standard input."""
    addresses = _addresses()
    resource.setrlimit(resource.RLIMIT_AS, (addresses, addresses))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    used = os.open("/proc/self/statm", os.O_RDONLY)  # which cannot be opened any more afterwards
    shut_in(readable())
    given, answers = sys.stdin.buffer, sys.stdout.buffer
    sys.stdout = io.TextIOWrapper(io.BytesIO())  # what a library prints must not get between the answers
    while True:
        try:
            question, (data,) = receive(given)
        except EOFError:
            return
        _limit(question["seconds"])
        _room(question["kind"], addresses, used)
        head, parts = answered(question, bytes(data))
        send(answers, head, *parts)


if __name__ == "__main__":
    main()
