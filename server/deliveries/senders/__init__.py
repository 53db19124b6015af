"""Ways to stores and platforms, each behind one small interface."""

from server.deliveries.senders.base import Account, Kept, Parcel, Refused, Sender, Sent, Wait
from server.deliveries.senders.folder import FolderSender
from server.deliveries.senders.platform import PlatformSender
from server.deliveries.senders.s3 import S3Sender
from server.deliveries.senders.sftp import SftpSender
from server.deliveries.senders.webdav import WebdavSender

KINDS: dict[str, type[Sender]] = {
    "platform": PlatformSender,
    "folder": FolderSender,
    "webdav": WebdavSender,
    "s3": S3Sender,
    "sftp": SftpSender,
}

__all__ = ["KINDS", "Account", "Kept", "Parcel", "Refused", "Sender", "Sent", "Wait"]
