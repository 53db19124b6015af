"""Work on runs that runs in the background, and its recovery."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from django.db import connection
from procrastinate import JobContext
from procrastinate.contrib.django import app

from server.conf import conf


@app.task(name="runs.make_photo", queue="make", priority=1)  # before photos that are only read
def make_photo(run_id: int, photo_id: int) -> None:
    """Make all renditions of one photo in a run; safe to run again."""
    from server.runs.making import make  # the imaging libraries stay out of the web process's start

    make(run_id, photo_id)


@app.periodic(cron="* * * * * */4")  # the sixth field is seconds: every four of them
@app.task(name="runs.recover", queue="system", queueing_lock="recover", pass_context=True)
async def recover(context: JobContext, timestamp: int) -> None:
    """Find what a dead worker was doing and have it done again.

    First jobs whose worker has gone quiet, then rows that are open although no job is there for
    them at all: the rows are the truth.
    """
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=conf.stalled_seconds):
        await manager.retry_job(job)
    for run_id, photo_id in await sync_to_async(orphans)():
        await make_photo.defer_async(run_id=run_id, photo_id=photo_id)


def orphans() -> list[tuple[int, int]]:
    """(run, photo) of open renditions that no job, waiting or under way, will make."""
    with connection.cursor() as cursor:
        cursor.execute(
            """
            SELECT DISTINCT r.run_id, r.photo_id FROM runs_rendition r
            JOIN runs_run u ON u.id = r.run_id AND u.finished IS NULL
            WHERE r.state IN ('waiting', 'making') AND NOT EXISTS (
                SELECT 1 FROM procrastinate_jobs j
                WHERE j.task_name = 'runs.make_photo' AND j.status IN ('todo', 'doing')
                AND (j.args->>'run_id')::bigint = r.run_id AND (j.args->>'photo_id')::bigint = r.photo_id)
            """
        )
        return [(run, photo) for run, photo in cursor.fetchall()]
