"""A job that fails while the database is away is written down as failed once it is back, and so tried again.

Otherwise it would stay under way for ever in the name of a worker that lives: whoever ends jobs asks once.
"""

from __future__ import annotations

import asyncio
from typing import TYPE_CHECKING, Any

from procrastinate.exceptions import ConnectorException

if TYPE_CHECKING:
    from procrastinate import JobContext
    from procrastinate.middleware import AsyncCallNext
    from procrastinate.worker import Worker

PAUSE = 0.3
"""Seconds between two looks whether it is back."""


async def wait_for_the_database(call_next: AsyncCallNext, context: JobContext, worker: Worker) -> Any:
    """Hold a failed job's end back until the database answers."""
    try:
        return await call_next()
    except Exception:
        while not await _answers(worker):
            await asyncio.sleep(PAUSE)
        raise


async def _answers(worker: Worker) -> bool:
    try:
        await worker.app.connector.execute_query_one_async("SELECT 1 AS one")
    except ConnectorException:
        return False
    return True
