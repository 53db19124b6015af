"""Secrets that are kept so that a copy of the database alone does not tell them."""

from __future__ import annotations

import base64
import functools

from cryptography.fernet import Fernet, InvalidToken
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings


class Unreadable(ValueError):
    """It was sealed with another secret key."""


@functools.lru_cache(maxsize=2)
def _sealer(secret: str) -> Fernet:
    key = HKDF(algorithm=SHA256(), length=32, salt=None, info=b"upper-tray/sealed").derive(secret.encode())
    return Fernet(base64.urlsafe_b64encode(key))


def seal(text: str) -> str:
    """The text, encrypted and signed (Fernet) with a key from the server's secret key."""
    return _sealer(settings.SECRET_KEY).encrypt(text.encode()).decode()


def unseal(sealed: str) -> str:
    """The text again; Unreadable where the server's secret key has changed since."""
    try:
        return _sealer(settings.SECRET_KEY).decrypt(sealed.encode()).decode()
    except InvalidToken as error:
        raise Unreadable("expected a secret of this server, found one that was sealed with another key") from error
