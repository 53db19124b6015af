"""Work on runs that runs in the background, and its recovery."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from procrastinate import JobContext
from procrastinate.contrib.django import app

from server.project.conf import conf
from server.queue.deferring import AFTERWARDS, MAKE


@app.task(name=MAKE, queue="make", priority=100)  # all of them before photos that are only read
def make_photo(run_id: int, photo_id: int) -> None:
    """Make all renditions of one photo in a run; safe to run again."""
    from server.runs.making import make  # the imaging libraries stay out of the web process's start

    make(run_id, photo_id)


@app.task(name=AFTERWARDS, queue="make", priority=101)  # before whatever else waits: somebody waits for it
def do_afterwards(run_id: int) -> None:
    """Do what a run's recipes ask for once all is made; safe to run again."""
    from server.runs.afterwards import do

    do(run_id)


@app.periodic(cron="* * * * * */4")  # the sixth field is seconds: every four of them
@app.task(name="runs.recover", queue="system", queueing_lock="recover", pass_context=True)
async def recover(context: JobContext, timestamp: int) -> None:
    """Find what a dead worker was doing and have it done again; see `runs.recovery`."""
    from server.runs import recovery

    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=conf.stalled_seconds):
        await sync_to_async(recovery.count_death)(job.id, job.task_name, job.task_kwargs)
        await manager.retry_job(job)
    await sync_to_async(recovery.settle)()
