"""Addresses: the API, the stream of hints, signing in, and the one page for everything else."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.urls import include, path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from server.guests.outside import outside
from server.guests.outside import page as guest_page
from server.inlets.posting import post_files
from server.live.views import events
from server.project.api import api


@ensure_csrf_cookie
@login_required
def page(request: HttpRequest) -> HttpResponse:
    """The built front end's one page."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built yet: run ./upper-tray demo.", status=503)
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


handler500 = "server.http.problems.fault"
urlpatterns = [
    path("api/", api.urls),
    path("events", events),
    path("guest/", outside.urls),
    path("inlet/<int:number>/files", post_files),
    path("pick/<int:number>", guest_page),
    path("proof/<int:number>", guest_page),
    path("", include("server.studios.urls")),
    re_path(r"^(?!static/|api/|guest/|inlet/).*$", page),
]
