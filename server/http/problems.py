"""Errors as the API tells them: application/problem+json (RFC 9457)."""

from __future__ import annotations

import sys
from typing import Any

from django.core.exceptions import PermissionDenied
from django.db import DataError, InterfaceError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.template.loader import render_to_string
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, ValidationError

from tray_core import RecipeError, TrayError


class Problem(Exception):
    """Something that the person asking can understand and act on.

    fields: what is wrong where, for forms; each with `field`, `expected`, `found`, `remedy`.
    """

    def __init__(self, status: int, title: str, detail: str, fields: list[dict[str, str]] | None = None) -> None:
        super().__init__(detail)
        self.status, self.title, self.detail, self.fields = status, title, detail, fields or []


def problem_response(status: int, title: str, detail: str, fields: list[dict[str, str]] | None = None) -> JsonResponse:
    """The problem as an answer."""
    body: dict[str, Any] = {"title": title, "detail": detail, "status": status, "fields": fields or []}
    return JsonResponse(body, status=status, content_type="application/problem+json")


def tell_problems(api: NinjaAPI) -> None:
    """Let `api` answer errors as problems."""

    @api.exception_handler(Problem)
    def _problem(request: HttpRequest, error: Problem) -> JsonResponse:
        return problem_response(error.status, error.title, error.detail, error.fields)

    @api.exception_handler(RecipeError)
    def _not_right(request: HttpRequest, error: RecipeError) -> JsonResponse:
        return problem_response(422, "Something is not right", str(error))

    @api.exception_handler(TrayError)
    def _impossible(request: HttpRequest, error: TrayError) -> JsonResponse:
        return problem_response(409, "It cannot be made", str(error))

    @api.exception_handler(Http404)
    def _missing(request: HttpRequest, error: Http404) -> JsonResponse:
        return problem_response(404, "Not found", "Not found. It may have been deleted.")

    @api.exception_handler(AuthenticationError)
    def _stranger(request: HttpRequest, error: AuthenticationError) -> JsonResponse:
        return problem_response(401, "Not signed in", "Sign in, then try again.")

    @api.exception_handler(PermissionDenied)
    def _denied(request: HttpRequest, error: PermissionDenied) -> JsonResponse:
        return problem_response(403, "Not allowed", str(error) or "You may not do that.")

    def _not_kept(request: HttpRequest, error: Exception | type[Exception]) -> HttpResponse:
        detail = "Expected text and numbers that can be kept, found characters that are none, or a number too large."
        return problem_response(422, "Something is not right", detail)

    for kind in (DataError, OverflowError, RecursionError, UnicodeError):
        api.add_exception_handler(kind, _not_kept)

    @api.exception_handler(ValidationError)
    def _invalid(request: HttpRequest, error: ValidationError) -> JsonResponse:
        fields = [
            {
                "field": ".".join(str(step) for step in each["loc"][2:]) or str(each["loc"][-1]),
                "expected": str(each["msg"]),
                "found": repr(each.get("input", ""))[:80],
                "remedy": "Correct the value.",
            }
            for each in error.errors
        ]
        detail = "; ".join(f"{field['field']}: {field['expected']}" for field in fields)
        return problem_response(422, "Something is not right", detail, fields)


def fault(request: HttpRequest) -> HttpResponse:
    """The answer to what nobody expected; Django calls it. A database that is away is no fault, and comes back."""
    away = isinstance(sys.exc_info()[1], OperationalError | InterfaceError)
    title = "The database cannot be reached" if away else "Something went wrong here"
    detail = "Nothing is lost. Try again in a moment." if away else "It is in the server's log. Try again."
    status = 503 if away else 500
    if request.path.startswith("/api/"):
        response: HttpResponse = problem_response(status, title, detail)
    elif away:
        response = HttpResponse(render_to_string("away.html"), status=status)
    else:
        response = HttpResponse(f"{title}. {detail}", status=status, content_type="text/plain")
    if away:
        response["Retry-After"] = "2"
    return response
