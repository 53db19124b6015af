"""Signing in by name and password."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.backends import ModelBackend
from django.contrib.auth.base_user import AbstractBaseUser
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from server.http.connections import let_go

BACKEND = "server.studios.sign_in.SignIn"


def locked_out(request: HttpRequest, *_: Any) -> HttpResponse:
    """Said after too many wrong passwords for a name from one address."""
    response = render(request, "sign-in.html", {"locked": True}, status=429)
    response["Retry-After"] = str(int(timedelta(hours=settings.AXES_COOLOFF_TIME).total_seconds()))
    return response


class SignIn(ModelBackend):
    """As Django does it, except that no connection is held while a password is hashed, which takes long on purpose."""

    def get_user(self, user_id: Any) -> AbstractBaseUser | None:  # type: ignore[override]  # as below
        """Who is signed in, with their studio: every request asks for both."""
        user = get_user_model().objects.filter(pk=user_id).select_related("member__studio").first()
        return user if user is not None and self.user_can_authenticate(user) else None

    def authenticate(  # type: ignore[override]  # the stubs know Django's own model of a user alone
        self, request: HttpRequest | None, username: str | None = None, password: str | None = None, **kwargs: Any
    ) -> AbstractBaseUser | None:
        if not username or password is None:
            return None
        users = get_user_model()
        user = users.objects.filter(**{users.USERNAME_FIELD: username}).first()
        let_go()
        if user is None:
            users().set_password(password)  # takes as long as for one who is there
            return None
        return user if user.check_password(password) and self.user_can_authenticate(user) else None
