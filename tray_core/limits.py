"""How large a photo may be before it is refused unread."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, kw_only=True, slots=True)
class Limits:
    """pixels: width x height as stored. bytes: the file. seconds: CPU time of a decoder. All inclusive."""

    pixels: int = 500_000_000
    bytes: int = 4_000_000_000
    seconds: int = 60


DEFAULT_LIMITS = Limits()
