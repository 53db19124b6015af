"""The search for a quality: the best under a limit of bytes, or the lightest that reaches a score; six encodes at most.

Bytes grow with quality nearly as an exponential, and the score's distance from perfect shrinks as one: between two
known points their logarithms are interpolated, and the bracket closes around the answer.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

MOST_TRIES = 6
_HIGHEST = 98
"""Above it files grow by half and look no better."""

_FIRST_BYTES, _FIRST_SCORE = 78, 84


@dataclass(frozen=True, slots=True)
class Found:
    """What a search came to. score: where it was one for a score."""

    data: bytes
    quality: int
    tries: int
    score: float | None = None

    @property
    def size(self) -> int:
        """Bytes."""
        return len(self.data)


def under_a_limit(encode: Callable[[int], bytes], limit: int, lowest: int) -> Found:
    """The best quality, from `lowest` to 98, of at most `limit` bytes that six encodes can find.

    The file at `lowest` where even that is larger.
    """
    search = _Search(lowest, _FIRST_BYTES, math.log(limit))
    while (quality := search.next()) is not None:
        data = encode(quality)
        search.take(quality, data, math.log(max(1, len(data))))
    best = search.below or search.above
    assert best is not None
    return Found(best.data, best.quality, search.tries)


def lightest_of_a_look(
    encode: Callable[[int], bytes], score: Callable[[bytes], float], target: float, lowest: int
) -> Found:
    """The lowest quality, from `lowest` to 98, whose file scores at least `target`, as far as six encodes can find it.

    The file at 98 where even that does not.
    """
    scores: dict[int, float] = {}
    # Mirrored: "above" is what reaches the target.
    search = _Search(lowest, _FIRST_SCORE, -math.log(100.5 - target))
    while (quality := search.next(reach=True)) is not None:
        data = encode(quality)
        scores[quality] = score(data)
        search.take(quality, data, -math.log(max(0.05, 100.5 - scores[quality])))
    best = search.above or search.below
    assert best is not None
    return Found(best.data, best.quality, search.tries, scores[best.quality])


@dataclass(frozen=True, slots=True)
class _Point:
    quality: int
    value: float
    data: bytes


class _Search:
    """A bracket around the quality at which a value crosses `goal`; values rise with quality.

    below: the point of highest quality at or under the goal; above: that of lowest quality over it.
    """

    def __init__(self, lowest: int, first: int, goal: float) -> None:
        self.lowest, self.highest = lowest, max(lowest, _HIGHEST)
        self.first = min(max(first, self.lowest), self.highest)
        self.goal = goal
        self.below: _Point | None = None
        self.above: _Point | None = None
        self.tries = 0
        self._slope = 0.035

    def take(self, quality: int, data: bytes, value: float) -> None:
        """Learn what a quality gives."""
        self.tries += 1
        point = _Point(quality, value, data)
        last = self.below or self.above
        if last is not None and last.quality != quality:
            slope = (point.value - last.value) / (quality - last.quality)
            self._slope = min(0.2, max(0.008, slope))
        if point.value <= self.goal:
            if self.below is None or quality > self.below.quality:
                self.below = point
        elif self.above is None or quality < self.above.quality:
            self.above = point

    def next(self, reach: bool = False) -> int | None:
        """The quality to try, or None when the answer is known or the tries are spent.

        reach: the goal is to be reached from above, so that a point exactly on it is not yet good enough to stop.
        """
        below, above = self.below, self.above
        if below is None and above is None:
            return self.first
        low = below.quality if below else self.lowest - 1
        high = above.quality if above else self.highest + 1
        if high - low <= 1 or self.tries >= MOST_TRIES:
            return None
        if below is not None and above is not None:
            share = (self.goal - below.value) / max(1e-9, above.value - below.value)
            guess = low + share * (high - low)
            if self.tries >= MOST_TRIES - 2 and high - low > 4:
                guess = (guess + (low + high) / 2) / 2
        elif below is not None:
            guess = low + (self.goal - below.value) / self._slope
        else:
            assert above is not None
            guess = high - (above.value - self.goal) / self._slope
        step = math.ceil(guess) if reach else math.floor(guess)
        wanted = min(max(step, low + 1), high - 1)
        missing = above is None if reach else below is None
        if missing and self.tries == MOST_TRIES - 1:
            # The last try goes to the end of the scale: an answer that holds is worth more than a fine one.
            wanted = self.highest if reach else self.lowest
        return min(max(wanted, self.lowest), self.highest)
