"""Files and archives as answers, piece by piece: nothing is held in memory whole."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Iterable, Iterator
from pathlib import Path
from urllib.parse import quote

from django.http import HttpResponseBase, StreamingHttpResponse

from server.http.problems import Problem

CHUNK = 1 << 20


async def _pieces(source: Iterator[bytes]) -> AsyncIterator[bytes]:
    while (piece := await asyncio.to_thread(next, source, None)) is not None:
        yield piece


def _read(path: Path) -> Iterator[bytes]:
    # Opened by the first piece: an answer that nobody reads has nothing to close.
    with path.open("rb") as file:
        while piece := file.read(CHUNK):
            yield piece


def stream(pieces: Iterable[bytes], kind: str, name: str, length: int | None, download: bool) -> HttpResponseBase:
    """An answer of `pieces`. name: offered to the person, in any script (RFC 6266)."""
    answer = StreamingHttpResponse(_pieces(iter(pieces)), content_type=kind)
    how = "attachment" if download else "inline"
    answer["Content-Disposition"] = f"{how}; filename*=UTF-8''{quote(name)}"
    if length is not None:
        answer["Content-Length"] = str(length)
    return answer


def stream_file(path: Path, kind: str, name: str, download: bool) -> HttpResponseBase:
    """A file as an answer; Problem (410) when it is gone."""
    try:
        length = path.stat().st_size
    except OSError as error:
        raise Problem(410, "The file is gone", f"{name}: it was moved or deleted after it was made.") from error
    return stream(_read(path), kind, name, length, download)
