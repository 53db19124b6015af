"""Machines that speak SFTP."""

from __future__ import annotations

import base64
import hashlib
import logging
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import paramiko

from server.deliveries.senders.base import (
    CHUNK,
    SECONDS,
    Account,
    Parcel,
    Refused,
    Sender,
    Sent,
    Wait,
    digest_of,
    free_names,
)

# What goes wrong is told on the delivery, and its own log knows names of machines.
logging.getLogger("paramiko").setLevel(logging.CRITICAL)


class _Known(paramiko.MissingHostKeyPolicy):
    """Only the machine whose key the account names; where it names none, the first one's is told and refused."""

    def __init__(self, account: str, wanted: str) -> None:
        self._account, self._wanted = account, wanted

    def missing_host_key(self, client: paramiko.SSHClient, hostname: str, key: paramiko.PKey) -> None:
        found = "SHA256:" + base64.b64encode(hashlib.sha256(key.asbytes()).digest()).decode().rstrip("=")
        if found != self._wanted:
            raise Refused(
                self._account,
                expected=f"the machine with the key {self._wanted or 'that the account names'}",
                found=found,
                remedy="Compare it with what the machine's owner says, then write it into the account.",
            )


class SftpSender(Sender):
    """settings: {"host", "port", "user", "path", "key"}: key is the fingerprint of the machine's own."""

    def __init__(self, account: Account) -> None:
        super().__init__(account)
        self._ssh = paramiko.SSHClient()
        self._sftp: paramiko.SFTPClient | None = None

    def close(self) -> None:
        self._ssh.close()

    def _open(self) -> paramiko.SFTPClient:
        if self._sftp is not None:
            return self._sftp
        settings: dict[str, Any] = dict(self.account.settings)
        self._ssh.set_missing_host_key_policy(_Known(self.account.name, str(settings.get("key", ""))))
        try:
            self._ssh.connect(
                str(settings["host"]),
                port=int(settings.get("port") or 22),
                username=str(settings.get("user", "")),
                password=self.account.secret,
                timeout=SECONDS,
                banner_timeout=SECONDS,
                auth_timeout=SECONDS,
                look_for_keys=False,
                allow_agent=False,
            )
            self._sftp = self._ssh.open_sftp()
        except paramiko.AuthenticationException as error:
            wrong = "Correct the account's name or secret"
            raise self._refused("that it lets us in", "that it does not", wrong) from error
        except (paramiko.SSHException, OSError, EOFError) as error:
            raise self._cut() from error
        return self._sftp

    def _refused(self, expected: str, found: str, remedy: str) -> Refused:
        told = f"{remedy}, then send it again."
        return Refused(self.account.name, expected=expected, found=found, remedy=told)

    def _cut(self) -> Wait:
        return Wait(
            self.account.name,
            expected="a connection that holds",
            found="one that was refused or cut",
            remedy="It is tried again; look whether the machine's name is right.",
        )

    def check(self) -> None:
        top = str(self.account.settings.get("path") or ".")
        try:
            self._open().stat(top)
        except FileNotFoundError as error:
            raise self._refused(f"the folder {top}", "nothing there", "Correct the account's folder") from error
        except (paramiko.SSHException, OSError, EOFError) as error:
            raise self._cut() from error

    def send(self, parcel: Parcel) -> Sent:
        sftp = self._open()
        try:
            return self._put(sftp, parcel)
        except PermissionError as error:
            raise self._refused(f"that it takes {parcel.name}", "permission denied", "Allow it there") from error
        except (paramiko.SSHException, OSError, EOFError) as error:
            self._sftp = None
            raise self._cut() from error

    def _put(self, sftp: paramiko.SFTPClient, parcel: Parcel) -> Sent:
        folder = str(self.account.settings.get("path") or ".").rstrip("/") or "/"
        for part in filter(None, parcel.folder.split("/")):
            folder = f"{folder}/{part}"
            with suppress(OSError):
                sftp.mkdir(folder)
        part_path = f"{folder}/.{parcel.key}.part"
        for name in free_names(parcel.name):
            path = f"{folder}/{name}"
            try:
                size = sftp.stat(path).st_size
            except FileNotFoundError:
                sftp.put(str(parcel.file), part_path, confirm=True)
                sftp.rename(part_path, path)
                return Sent(self._address(path), digest_of(_read(sftp, path)))
            if size == parcel.bytes and digest_of(_read(sftp, path)) == parcel.sha256:
                return Sent(self._address(path), parcel.sha256)
        raise AssertionError("there is always a free name")

    def _address(self, path: str) -> str:
        return f"sftp://{self.account.settings['host']}/{path.removeprefix('./')}"


def _read(sftp: paramiko.SFTPClient, path: str) -> Iterator[bytes]:
    with sftp.open(path, "rb") as file:
        file.prefetch()
        while piece := file.read(CHUNK):
            yield piece
