"""Work on deliveries that runs in the background."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from procrastinate.contrib.django import app

from server.queue.deferring import DELIVER


@app.task(name=DELIVER, queue="send")
def send_delivery(delivery_id: int) -> None:
    """Send one finished file; safe to run again."""
    from server.deliveries.sending import send

    send(delivery_id)


@app.periodic(cron="* * * * * */10")  # the sixth field is seconds: every ten of them
@app.task(name="deliveries.look", queue="system", queueing_lock="deliveries")
async def look_at_deliveries(timestamp: int) -> None:
    """Find deliveries that nobody sends."""
    from server.deliveries.sending import give_out_again

    await sync_to_async(give_out_again, thread_sensitive=False)()
