"""Posting files to an inlet with its token: for cameras, scripts, cataloguing programs."""

from __future__ import annotations

from axes.helpers import get_client_ip_address
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.csrf import csrf_exempt
from django.views.decorators.http import require_POST

from server.http.connections import let_go
from server.http.problems import Problem, problem_response
from server.http.rates import Rate
from server.inlets import flows
from server.studios.room import check_room

TRIES = Rate(30, 60)
"""Of wrong tokens, by address."""


def token_in(headers: dict[str, str]) -> str:
    """The bearer token of a request's headers (RFC 6750); "" without one."""
    kind, _, token = headers.get("authorization", "").partition(" ")
    return token.strip() if kind.lower() == "bearer" else ""


def may_post(path: str, token: str) -> bool:
    """Whether a token opens an address; asked before a large body is taken."""
    number = path.removeprefix("/inlet/").partition("/")[0]
    good = number.isdecimal() and len(number) < 10 and flows.by_token(int(number), token) is not None
    let_go()
    return good


@csrf_exempt  # the token says who asks, and no browser sends it by itself
@require_POST
def post_files(request: HttpRequest, number: int) -> HttpResponse:
    """Take the files of a form: curl -H "Authorization: Bearer TOKEN" -F file=@photo.jpg ADDRESS"""
    try:
        inlet = flows.by_token(number, token_in({"authorization": request.headers.get("Authorization", "")}))
        if inlet is None:
            TRIES.check(get_client_ip_address(request) or "?")
            raise Problem(401, "Another token", "Expected the token of this inlet. Copy it from the inlet's page.")
        given = [file for name in request.FILES for file in request.FILES.getlist(name)]
        if not given:
            raise Problem(422, "No file", "Expected a file in the form, found none. Send it as the field named file.")
        check_room(inlet.studio, sum(file.size or 0 for file in given), inlet.name)
        let_go()
        took = [flows.take(inlet, file.name or "file", file.chunks()) for file in given]
    except Problem as problem:
        return problem_response(problem.status, problem.title, problem.detail)
    told = [{"name": name, "new": new} for name, new in took]
    return JsonResponse({"files": told}, status=201 if any(new for _, new in took) else 200)
