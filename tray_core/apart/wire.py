"""How the two processes talk: a line of JSON, and then as many bytes as it says."""

from __future__ import annotations

import json
from typing import IO, Any

_LONGEST_LINE = 100_000


def send(file: IO[bytes], head: dict[str, Any], *parts: bytes | memoryview) -> None:
    """Write `head` and the bytes behind it."""
    sizes = [part.nbytes if isinstance(part, memoryview) else len(part) for part in parts]
    file.write(json.dumps({**head, "sizes": sizes}).encode() + b"\n")
    for part in parts:
        file.write(part)
    file.flush()


def receive(file: IO[bytes]) -> tuple[dict[str, Any], list[bytearray]]:
    """Read what `send` wrote; EOFError at the end of the stream."""
    line = file.readline(_LONGEST_LINE)
    if not line.endswith(b"\n"):
        raise EOFError
    head: dict[str, Any] = json.loads(line)
    return head, [_exactly(file, size) for size in head.pop("sizes")]


def _exactly(file: IO[bytes], size: int) -> bytearray:
    data = bytearray(size)
    view, done = memoryview(data), 0
    while done < size:
        count = file.readinto(view[done:])  # type: ignore[attr-defined]  # pipes have it
        if not count:
            raise EOFError
        done += count
    return data
