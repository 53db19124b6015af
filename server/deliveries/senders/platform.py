"""The platform that ships with the product as a stand-in: uploads in pieces, by key, with a token that ends."""

from __future__ import annotations

from typing import Any

import httpx

from server.deliveries.senders.answers import told_by_status, translated
from server.deliveries.senders.base import (
    CHUNK,
    SECONDS,
    Account,
    Parcel,
    Sender,
    Sent,
    Wait,
)


class PlatformSender(Sender):
    """settings: {"address", "user"}."""

    def __init__(self, account: Account) -> None:
        super().__init__(account)
        self._base = str(account.settings["address"]).rstrip("/")
        self._client = httpx.Client(timeout=SECONDS, follow_redirects=False, trust_env=False)
        self._token = ""

    def close(self) -> None:
        self._client.close()

    def check(self) -> None:
        self._sign_in()

    def _sign_in(self) -> None:
        with translated(self.account.name):
            body = {"account": self.account.settings.get("user", ""), "secret": self.account.secret}
            answer = self._client.post(f"{self._base}/token", json=body)
        if answer.status_code != 200:
            raise told_by_status(self.account.name, answer, "our sign-in", _said(answer))
        self._token = str(answer.json()["token"])

    def _ask(self, method: str, path: str, what: str, **more: Any) -> dict[str, Any]:
        """What it answers; a token that ended is asked for anew, once."""
        for last in (False, True):
            if not self._token:
                self._sign_in()
            with translated(self.account.name):
                headers = {"Authorization": f"Bearer {self._token}"}
                answer = self._client.request(method, f"{self._base}{path}", headers=headers, **more)
            if answer.status_code != 401 or last:
                break
            self._token = ""
        if answer.status_code not in (200, 201):
            raise told_by_status(self.account.name, answer, what, _said(answer))
        found: dict[str, Any] = answer.json()
        return found

    def send(self, parcel: Parcel) -> Sent:
        about = {
            "key": parcel.key,
            "name": parcel.name,
            "bytes": parcel.bytes,
            "sha256": parcel.sha256,
            "outlet": parcel.outlet,
            "use": parcel.use,
            "words": dict(parcel.words),
        }
        # It knows by the key how far the last try came, or that it is there.
        found = self._ask("POST", "/uploads", parcel.name, json=about)
        with parcel.file.open("rb") as file:
            while "post" not in found:
                offset = int(found["offset"])
                file.seek(offset)
                piece = file.read(CHUNK)
                if not piece:
                    raise Wait(
                        self.account.name,
                        expected=f"that {parcel.name} is whole after {parcel.bytes:,} bytes",
                        found="that it waits for more",
                        remedy="It is tried again.",
                    )
                found = self._ask("PUT", f"/uploads/{found['upload']}?offset={offset}", parcel.name, content=piece)
        return Sent(f"{self._base}{found['post']}", str(found["sha256"]))


def _said(answer: httpx.Response) -> str:
    try:
        return str(answer.json().get("message", ""))[:300]
    except (ValueError, AttributeError):
        return ""
