"""Headers that no package of ours sets."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase
from django.utils.decorators import sync_only_middleware

_NOTHING = ("camera", "display-capture", "geolocation", "microphone", "payment", "usb")


@sync_only_middleware
def more_headers(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Pages use none of a browser's devices."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        response["Permissions-Policy"] = ", ".join(f"{name}=()" for name in _NOTHING)
        return response

    return answer
