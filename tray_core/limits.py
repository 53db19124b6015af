"""How large a photo may be, and where it may lie, before it is refused unread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, kw_only=True, slots=True)
class Limits:
    """pixels: width x height as stored. bytes: the file. seconds: CPU time of a decoder. All inclusive.

    beneath: the folder that files are opened below, wherever links lead; None for anywhere.
    """

    pixels: int = 500_000_000
    bytes: int = 4_000_000_000
    seconds: int = 60
    beneath: Path | None = None


DEFAULT_LIMITS = Limits()
