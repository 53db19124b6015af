"""Work on boards that runs in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from server.board import journal
from server.queue.deferring import WEIGH


@app.task(name=WEIGH, queue="make")
def weigh_cells(tray_id: int, cells: list[list[int]]) -> None:
    """Encode what people look at, while there is nothing else to do."""
    from server.board.weighing import weigh

    weigh(tray_id, [(photo, recipe) for photo, recipe in cells])


@app.periodic(cron="*/10 * * * *")
@app.task(name="board.forget", queue="system", queueing_lock="forget-changes")
def forget_changes(timestamp: int) -> None:
    """Keep the journal short."""
    journal.forget()
