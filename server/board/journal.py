"""What changed of a tray since somebody looked: photos whose cells may look, be named or be counted otherwise now.

Triggers write the journal (migration 0001), so that nobody who changes a row can forget it. Each entry tells its
transaction. A reader remembers below which number all transactions were over when it looked, and asks next time for
those from there on: none is missed that was under way meanwhile, and some are told twice.
"""

from __future__ import annotations

from dataclasses import dataclass

from django.db import connection

KEPT = 24 * 3600
"""Seconds that entries are kept."""


@dataclass(frozen=True, slots=True)
class Changes:
    """photos: that are or were in the tray, and of which anything may be other; states: of which nothing but the states
    of their cells may be. places: whether photos came, went or moved. until: where to go on.
    """

    photos: set[int]
    states: set[int]
    places: bool
    until: str


def changes(tray: int, since: str | None) -> Changes:
    """What changed of a tray since `Changes.until`; with None nothing but where to begin."""
    with connection.cursor() as cursor:
        if since is None:
            cursor.execute("SELECT pg_snapshot_xmin(pg_current_snapshot())::text")
            return Changes(set(), set(), False, cursor.fetchone()[0])
        # In one question, and so of one moment.
        cursor.execute(
            """
            SELECT pg_snapshot_xmin(pg_current_snapshot())::text,
                   array_agg(DISTINCT photo_id) FILTER (WHERE plans),
                   array_agg(DISTINCT photo_id) FILTER (WHERE NOT plans),
                   coalesce(bool_or(tray_id IS NOT NULL), false)
            FROM board_change AS change
            WHERE xact >= %s::xid8 AND (
                tray_id = %s OR tray_id IS NULL AND EXISTS (
                    SELECT 1 FROM trays_trayphoto AS place
                    WHERE place.tray_id = %s AND place.photo_id = change.photo_id
                )
            )
            """,
            [since, tray, tray],
        )
        until, photos, states, places = cursor.fetchone()
    whole = set(photos or ())
    return Changes(whole, set(states or ()) - whole, places, until)


def forget() -> None:
    """Drop entries that nobody goes on from any more."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM board_change WHERE made < now() - make_interval(secs => %s)", [KEPT])
