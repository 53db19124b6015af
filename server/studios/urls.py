"""Signing in and out."""

from __future__ import annotations

from django.contrib.auth import views
from django.http import HttpRequest
from django.template.response import TemplateResponse
from django.urls import path

from server.project.conf import conf
from server.studios.invitation import sign_in_once


class SignOut(views.LogoutView):
    """Asks first where somebody only follows the address: looking at a page changes nothing."""

    http_method_names = ("get", "head", "post", "options")

    def get(self, request: HttpRequest) -> TemplateResponse:
        return TemplateResponse(request, "sign-out.html")


urlpatterns = [
    path(
        "sign-in",
        views.LoginView.as_view(template_name="sign-in.html", extra_context={"demo": conf.demo}),
        name="sign-in",
    ),
    path("sign-in/<str:token>", sign_in_once),
    path("sign-out", SignOut.as_view(), name="sign-out"),
]
