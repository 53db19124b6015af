"""Renditions that idle workers encoded before a run began: what they weigh, and their bytes for the run."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable, Sequence

from django.db.models import Sum

from server.runs.models import Weighed
from tray_core.coders import Encoded

MOST_BYTES = 2_000_000_000
"""Of what is kept for a studio; the oldest goes first."""


def known_bytes(studio: int, fingerprints: Iterable[str]) -> dict[str, int]:
    """The exact bytes of those that were weighed."""
    rows = Weighed.objects.filter(studio_id=studio, fingerprint__in=list(fingerprints))
    return dict(rows.values_list("fingerprint", "bytes"))


def made_ahead(studio: int, fingerprints: Sequence[str]) -> Callable[[int], Encoded | None]:
    """What `make_renditions` asks for bytes that are there already. fingerprints: of the plans that it is given."""
    found = Weighed.objects.filter(studio_id=studio, fingerprint__in=fingerprints)
    rows = {row.fingerprint: row for row in found}

    def ready(number: int) -> Encoded | None:
        if (row := rows.get(fingerprints[number])) is None:
            return None
        try:
            data = row.file.read_bytes()
        except OSError:
            return None  # the cache may be emptied at any time
        return Encoded(data, **row.about) if len(data) == row.bytes else None

    return ready


def keep(studio: int, name: str, made: Encoded) -> None:
    about = {"quality": made.quality, "score": made.score, "tries": made.tries}
    row = Weighed(studio_id=studio, fingerprint=name, bytes=len(made.data), about=about)
    row.file.parent.mkdir(parents=True, exist_ok=True)
    part = row.file.with_name(f".{name}.{secrets.token_hex(4)}.part")
    part.write_bytes(made.data)
    part.replace(row.file)
    Weighed.objects.bulk_create([row], ignore_conflicts=True)


def forget(studio: int) -> None:
    """Make room once there is more than may be: a tenth at a time, until the rest may stay."""
    rows = Weighed.objects.filter(studio_id=studio)
    while (rows.aggregate(Sum("bytes"))["bytes__sum"] or 0) > MOST_BYTES:
        for row in rows.order_by("made", "pk")[: max(1, rows.count() // 10)]:
            row.file.unlink(missing_ok=True)
            row.delete()
