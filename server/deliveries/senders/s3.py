"""Stores that understand the requests of S3."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

import urllib3
from minio import Minio
from minio.error import MinioException, S3Error

from server.deliveries.senders.base import SECONDS, Account, Parcel, Refused, Sender, Sent, Wait, free_names

_LATER = frozenset(("SlowDown", "InternalError", "ServiceUnavailable", "RequestTimeout", "OperationAborted"))
_CLOCK = frozenset(("RequestTimeTooSkewed", "RequestExpired"))


class S3Sender(Sender):
    """settings: {"address", "bucket", "user", "region"}: user is the access key, the secret is the secret key."""

    def __init__(self, account: Account) -> None:
        super().__init__(account)
        parts = urlsplit(str(account.settings["address"]))
        if parts.scheme not in ("http", "https") or not parts.netloc:
            raise Refused(
                account.name,
                expected="an address that begins with http:// or https://",
                found=repr(account.settings["address"]),
                remedy="Correct the account's address.",
            )
        self._bucket = str(account.settings["bucket"])
        self._base = f"{parts.scheme}://{parts.netloc}"
        self._client = Minio(
            endpoint=parts.netloc,
            access_key=str(account.settings.get("user", "")),
            secret_key=account.secret,
            secure=parts.scheme == "https",
            region=str(account.settings.get("region") or "us-east-1"),
            http_client=urllib3.PoolManager(timeout=SECONDS, retries=False),
        )

    def check(self) -> None:
        self._asked("our look at its bucket", lambda: self._client.bucket_exists(bucket_name=self._bucket))

    def send(self, parcel: Parcel) -> Sent:
        folder = f"{parcel.folder}/" if parcel.folder else ""
        for name in free_names(parcel.name):
            key = f"{folder}{name}"
            there = self._hash_of(key)
            if there is None:
                self._asked(parcel.name, functools.partial(self._put, parcel, key))
                there = self._hash_of(key) or ""
            if there == parcel.sha256:
                return Sent(f"{self._base}/{self._bucket}/{key}", there)
        raise AssertionError("there is always a free name")

    def _put(self, parcel: Parcel, key: str) -> None:
        self._client.fput_object(
            bucket_name=self._bucket,
            object_name=key,
            file_path=str(parcel.file),
            metadata={"sha256": parcel.sha256, "upload-key": parcel.key},
        )

    def close(self) -> None:
        return

    def _hash_of(self, key: str) -> str | None:
        """What was noted of an object when it was put there; None for none."""
        try:
            found = self._client.stat_object(bucket_name=self._bucket, object_name=key)
        except S3Error as error:
            if error.code in ("NoSuchKey", "NotFound"):
                return None
            raise self._told(error, key) from error
        except (MinioException, urllib3.exceptions.HTTPError, OSError) as error:
            raise self._cut() from error
        noted = {name.lower(): value for name, value in (found.metadata or {}).items()}
        return str(noted.get("x-amz-meta-sha256", ""))

    def _asked(self, what: str, ask: Callable[[], Any]) -> Any:
        try:
            return ask()
        except S3Error as error:
            raise self._told(error, what) from error
        except (MinioException, urllib3.exceptions.HTTPError, OSError) as error:
            raise self._cut() from error

    def _cut(self) -> Wait:
        return Wait(
            self.account.name,
            expected="a connection that holds",
            found="one that was refused or cut",
            remedy="It is tried again; look whether the address is right.",
        )

    def _told(self, error: S3Error, what: str) -> Refused | Wait:
        code = str(error.code)
        kind = Wait if code in _LATER else Refused
        remedy = "It is tried again." if kind is Wait else "Mend that, then send it again."
        if code in _CLOCK:
            remedy = "The clocks differ: set this machine's clock, then send it again."
        return kind(self.account.name, expected=f"that it takes {what}", found=f"the answer {code}", remedy=remedy)
