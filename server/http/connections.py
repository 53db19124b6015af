"""Connections to the database, and when to give them back: nobody waits while holding one."""

from __future__ import annotations

from collections.abc import Callable

from django.db import connections
from django.http import HttpRequest, HttpResponseBase
from django.utils.decorators import sync_only_middleware


def let_go() -> None:
    """Give this thread's connections back; the next question takes one anew.

    Called before anything that takes long: drawing, hashing a password, waiting for a turn. Inside a
    transaction nothing is given back.
    """
    for each in connections.all(initialized_only=True):
        if not each.in_atomic_block:
            each.close()


@sync_only_middleware
def let_go_before_streams(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Answers that come piece by piece hold no connection until they end, which may be hours later.

    Outside of all other middleware: those may still ask something.
    """

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if response.streaming:
            let_go()
        return response

    return answer
