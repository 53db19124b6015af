"""Where to slide a crop so that it keeps what must be seen. What that is was measured in `line.interest`."""

from __future__ import annotations

import functools
import itertools
from collections.abc import Callable
from dataclasses import dataclass

from tray_core.photo.interest import Interest

_WEIGHTS = {"head": 3.0, "thing": 0.4}
"""What a subject counts for when all of it is kept; all interest of the photo counts 1. Half a head counts little, so
that whole ones come first."""

_CENTERED = 1 / 16
"""What the way from the middle to an edge costs, of all interest: it decides between windows that hold the same."""

_ROOM = 0.06
"""Beside a head, as a share of its size: faces do not touch the edge where there is room. It counts for `_BODY` too."""

_SHOULDERS = ((1.0, 1.0), (0.3, 2.0))
"""What belongs to a head, in its sizes, before and behind it along both edges. It counts for `_BODY`, cut or not."""

_BODY = 0.5

_HEAD_KEPT, _THING_KEPT = 0.97, 0.6
"""What an eye is asked for below. A box of a head is true to a few per cent; a thing's box has ground at its ends."""


@dataclass(frozen=True, slots=True)
class Start:
    """at: where the crop begins, in shares of the edge. cuts: whether it cuts what should stay whole."""

    at: float
    cuts: bool


@functools.lru_cache(maxsize=65536)
def best_start(interest: Interest, axis: int, share: float) -> Start:
    """The start, 0..1-share, of the window that keeps most of what must be seen.

    axis: 0 along the width, 1 along the height. share: the window's part of the edge, 0..1. Of windows that hold the
    same, the one nearest the middle is taken; a photo of no interest gives the middle.
    """
    held = _held(interest.down if axis else interest.across)
    spans = [(each.kind, each.box[axis], each.box[axis + 2]) for each in interest.subjects]
    room = max(0.0, 1 - share)
    middle = room / 2

    def worth(start: float) -> float:
        end = start + share
        found = held(end) - held(start) - _CENTERED * abs(start - middle) / max(middle, 1e-9)
        for kind, first, last in spans:
            kept = _kept(first, last, start, end)
            found += _WEIGHTS[kind] * kept * (1.0 if kept > 1 - 1e-9 else 0.5 * kept)
            if kind == "head":
                margin = _ROOM * (last - first)
                found += _BODY * _kept(max(0.0, first - margin), min(1.0, last + margin), start, end)
                before, behind = (each * (last - first) for each in _SHOULDERS[axis])
                found += _BODY * _kept(max(0.0, first - before), min(1.0, last + behind), start, end)
        return found

    steps = 4 * len(interest.across)
    tries = [room * i / steps for i in range(steps + 1)]
    for kind, first, last in spans:
        margins = (0.0, _ROOM * (last - first)) if kind == "head" else (0.0,)
        edges = [edge for margin in margins for edge in (first - margin, last + margin - share)]
        tries += [min(max(0.0, edge), room) for edge in (*edges, (first + last - share) / 2)]
    at = max(tries, key=worth)
    cuts = any(_cut(kind, _kept(first, last, at, at + share)) for kind, first, last in spans)
    return Start(at, cuts)


def _cut(kind: str, kept: float) -> bool:
    """Whether an eye is needed: a head that is neither whole nor gone is; of a thing, less than most."""
    return kept < _HEAD_KEPT if kind == "head" else kept < _THING_KEPT


def _kept(first: float, last: float, start: float, end: float) -> float:
    return max(0.0, min(last, end) - max(first, start)) / max(1e-9, last - first)


def _held(profile: bytes) -> Callable[[float], float]:
    """The share of all interest along an edge that lies before a place on it."""
    steps, total = len(profile), max(1, sum(profile))
    sums = [0, *itertools.accumulate(profile)]

    def before(at: float) -> float:
        place = min(max(0.0, at), 1.0) * steps
        whole = min(int(place), steps - 1)
        return (sums[whole] + (place - whole) * profile[whole]) / total

    return before
