"""The fuzzing itself: mutate, read, and see that nothing but a picture or an error of the tree comes of it."""

from __future__ import annotations

import resource
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from tray_core.errors import TrayError
from tray_core.fuzz.corpus import sound_files
from tray_core.fuzz.hostile import hostile_files
from tray_core.photo import Limits, read_facts
from tray_core.pixels.color import to_srgb
from tray_core.pixels.decode import decode
from tray_core.pixels.scale import standard_size

LIMITS = Limits(pixels=60_000_000, bytes=50_000_000, seconds=10)
_EXTREMES = (0, 1, 0x7F, 0x80, 0xFF, 0xFFFF, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF)


@dataclass(slots=True)
class Report:
    """What came of the files: how many by outcome, and every file that broke the rules with its name and reason.

    peak_mb: of this process; that of the decoders apart is bounded by their own limit.
    """

    outcomes: Counter[str] = field(default_factory=Counter)
    broken: list[str] = field(default_factory=list)
    peak_mb: float = 0

    @property
    def files(self) -> int:
        """How many were read."""
        return sum(self.outcomes.values())


def mutated(data: bytes, random: np.random.Generator) -> tuple[str, bytes]:
    """One of: cut at a tenth of its length, bits flipped, a length that lies, a piece repeated, a piece left out."""
    made = bytearray(data)
    match int(random.integers(0, 5)):
        case 0:
            tenth = int(random.integers(1, 10))
            return f"cut at {tenth}/10", bytes(made[: len(made) * tenth // 10])
        case 1:
            for _ in range(int(random.integers(1, 9))):
                made[int(random.integers(0, len(made)))] ^= 1 << int(random.integers(0, 8))
            return "bits flipped", bytes(made)
        case 2:
            at, value = int(random.integers(0, max(1, len(made) - 4))), int(random.choice(_EXTREMES))
            made[at : at + 4] = value.to_bytes(4, "big" if random.integers(0, 2) else "little")
            return "a lying length", bytes(made)
        case 3:
            start, stop = sorted(int(each) for each in random.integers(0, len(made), 2))
            return "a piece repeated", bytes(made[:stop] + made[start:stop] * 3 + made[stop:])
    start, stop = sorted(int(each) for each in random.integers(0, len(made), 2))
    return "a piece left out", bytes(made[:start] + made[stop:])


def read_one(name: str, data: bytes) -> str:
    """Read a file as the product does; the class of what came of it. Anything but a TrayError is let through."""
    try:
        facts = read_facts(name, LIMITS, data)
        picture = decode(facts, data, standard_size(facts), limits=LIMITS)
        to_srgb(picture)
    except TrayError as error:
        assert name in error.subject or "profile" in error.subject, f"the error names {error.subject!r}"
        assert error.expected and error.found and error.remedy, "the error is not whole"
        return type(error).__name__
    return "read"


def fuzz(count: int, seed: int, tell: Callable[[str], None] = lambda _: None) -> Report:
    """Read `count` files: every hostile one, and mutations of every kind in turn. Same seed, same files."""
    random = np.random.default_rng(seed)
    sound, report = sound_files(), Report()
    names = sorted(sound)
    queue = list(hostile_files(seed).items())
    for number in range(count):
        if queue:
            name, data = queue.pop(0)
        else:
            kind = names[number % len(names)]
            how, data = mutated(sound[kind], random)
            name = f"{kind}, {how}, number {number}"
        try:
            report.outcomes[read_one(name, data)] += 1
        except Exception as error:  # what must not happen is what this looks for
            report.outcomes["broken"] += 1
            report.broken.append(f"{name}: {type(error).__name__}: {error}")
        if number % 100 == 99:
            tell(f"{number + 1} of {count}")
    report.peak_mb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return report
