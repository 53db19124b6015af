"""What is done with runs: starting, stopping, bringing them to their end."""

from __future__ import annotations

from django.db import transaction

from server.live.hub import hint
from server.runs import tallies
from server.runs.models import Rendition, Run


@transaction.atomic
def stop_run(run: Run) -> None:
    """Stop a run: what waits, for its turn or for an eye, is not made any more.

    A photo being worked finishes its current rendition.
    """
    tallies.lock([run.pk])
    Run.objects.filter(pk=run.pk).update(stop_asked=True)
    waiting = (Rendition.State.WAITING, Rendition.State.ASKING)
    tallies.end_rows(run, run.renditions.filter(state__in=waiting), Rendition.State.STOPPED)
    tallies.finish_if_done(run)
    hint(run.studio_id, "run", run.pk)
