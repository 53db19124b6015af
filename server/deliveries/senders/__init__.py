"""Ways to stores and platforms, each behind one small interface, loaded when something is sent there: their libraries
would make the start of every process slower by a second.
"""

from __future__ import annotations

import importlib

from server.deliveries.senders.base import Account, Parcel, Refused, Sender, Sent, Wait

KINDS = {
    "platform": "PlatformSender",
    "folder": "FolderSender",
    "webdav": "WebdavSender",
    "s3": "S3Sender",
    "sftp": "SftpSender",
}
"""The kinds of accounts, with the class of each in the module of its name."""


def sender_for(kind: str, account: Account) -> Sender:
    """A way to an account of a kind; Refused where its settings name no place."""
    made: type[Sender] = getattr(importlib.import_module(f"server.deliveries.senders.{kind}"), KINDS[kind])
    return made(account)


__all__ = ["KINDS", "Account", "Parcel", "Refused", "Sender", "Sent", "Wait", "sender_for"]
