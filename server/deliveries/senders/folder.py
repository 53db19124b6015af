"""A folder of this machine: a share, a drive, what another program looks at."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

from server.deliveries.senders.base import CHUNK, Parcel, Refused, Sender, Sent, Wait, digest_of, free_names


def _pieces(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while piece := file.read(CHUNK):
            yield piece


class FolderSender(Sender):
    """settings: {"path"}: a folder below one of the studio's roots or its output; see `flows.check_settings`."""

    @property
    def _top(self) -> Path:
        return Path(str(self.account.settings["path"]))

    def close(self) -> None:
        return

    def check(self) -> None:
        if not self._top.is_dir():
            raise Wait(
                self.account.name,
                expected=f"the folder {self._top}",
                found="nothing there",
                remedy="Connect its drive, or correct the account's folder.",
            )

    def send(self, parcel: Parcel) -> Sent:
        self.check()
        try:
            return self._copied(parcel)
        except OSError as error:
            kind = Refused if error.errno in (28, 30, 13, 122) else Wait  # full, read-only, not allowed, over quota
            raise kind(
                self.account.name,
                expected=f"that {parcel.name} can be written",
                found=(error.strerror or "an error").lower(),
                remedy="Mend that at the folder, then send it again.",
            ) from error

    def _copied(self, parcel: Parcel) -> Sent:
        folder = self._top / parcel.folder
        folder.mkdir(parents=True, exist_ok=True)
        # The same at each try: what a killed one left is written over.
        part = folder / f".{parcel.key}.part"
        for name in free_names(parcel.name):
            target = folder / name
            if target.exists():
                if target.stat().st_size == parcel.bytes and digest_of(_pieces(target)) == parcel.sha256:
                    part.unlink(missing_ok=True)
                    return Sent(str(target), parcel.sha256)
                continue
            with part.open("wb") as file:
                for piece in _pieces(parcel.file):
                    file.write(piece)
                file.flush()
                os.fsync(file.fileno())
            try:
                os.link(part, target)  # whole, or not there; and never over another
            except FileExistsError:
                continue
            except OSError:
                # Shares without hard links.
                part.rename(target)
            part.unlink(missing_ok=True)
            return Sent(str(target), digest_of(_pieces(target)))
        raise AssertionError("there is always a free name")
