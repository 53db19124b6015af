"""Stores that speak WebDAV (RFC 4918)."""

from __future__ import annotations

from collections.abc import Iterator
from urllib.parse import quote

import httpx

from server.deliveries.senders.answers import told_by_status, translated
from server.deliveries.senders.base import (
    CHUNK,
    SECONDS,
    Account,
    Parcel,
    Sender,
    Sent,
    digest_of,
    free_names,
)


class WebdavSender(Sender):
    """settings: {"address", "user"}: the address of the folder that all go below."""

    def __init__(self, account: Account) -> None:
        super().__init__(account)
        self._base = str(account.settings["address"]).rstrip("/")
        user = str(account.settings.get("user", ""))
        self._client = httpx.Client(auth=(user, account.secret) if user else None, timeout=SECONDS, trust_env=False)

    def close(self) -> None:
        self._client.close()

    def check(self) -> None:
        with translated(self.account.name):
            answer = self._client.request("PROPFIND", f"{self._base}/", headers={"Depth": "0"})
        if answer.status_code != 207:
            raise told_by_status(self.account.name, answer, "our look at its folder")

    def send(self, parcel: Parcel) -> Sent:
        with translated(self.account.name):
            folder = self._folder(parcel.folder)
            for name in free_names(parcel.name):
                address = f"{folder}/{quote(name)}"
                if (there := self._there(address, parcel)) is None:
                    # Only where nothing is: whoever came between is not written over.
                    answer = self._client.put(
                        address,
                        content=_pieces(parcel),
                        headers={"Content-Length": str(parcel.bytes), "If-None-Match": "*"},
                    )
                    if answer.status_code == 412:
                        continue
                    if not answer.is_success:
                        raise told_by_status(self.account.name, answer, parcel.name)
                    return Sent(address, self._digest(address))
                if there == parcel.sha256:
                    return Sent(address, there)
        raise AssertionError("there is always a free name")

    def _folder(self, relative: str) -> str:
        address = self._base
        for part in filter(None, relative.split("/")):
            address = f"{address}/{quote(part)}"
            answer = self._client.request("MKCOL", address)
            if answer.status_code not in (201, 405):  # 405: it is there
                raise told_by_status(self.account.name, answer, f"the folder {relative}")
        return address

    def _there(self, address: str, parcel: Parcel) -> str | None:
        """The hash of what is at an address, "" for another size; None for nothing."""
        answer = self._client.head(address)
        if answer.status_code == 404:
            return None
        if not answer.is_success:
            raise told_by_status(self.account.name, answer, parcel.name)
        if answer.headers.get("content-length", str(parcel.bytes)) != str(parcel.bytes):
            return ""
        return self._digest(address)

    def _digest(self, address: str) -> str:
        with self._client.stream("GET", address) as answer:
            if not answer.is_success:
                raise told_by_status(self.account.name, answer, "our look at what was sent")
            return digest_of(answer.iter_bytes(CHUNK))


def _pieces(parcel: Parcel) -> Iterator[bytes]:
    with parcel.file.open("rb") as file:
        while piece := file.read(CHUNK):
            yield piece
