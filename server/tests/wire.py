"""A wire to the database that can be cut: what a database that is stopped looks like from the other end."""

from __future__ import annotations

import contextlib
import socket
import threading

from django.db import connection


class Wire:
    """A port that passes everything on to the database while it is whole, and refuses everybody while it is cut."""

    def __init__(self) -> None:
        settings = connection.settings_dict
        self._to = (settings["HOST"], int(settings["PORT"]))
        self._whole = threading.Event()
        self._whole.set()
        self._open: set[socket.socket] = set()
        self._listener = socket.create_server(("127.0.0.1", 0))
        self.port: int = self._listener.getsockname()[1]
        threading.Thread(target=self._listen, daemon=True).start()

    def cut(self) -> None:
        """End all connections, and take no more."""
        self._whole.clear()
        for each in list(self._open):
            _end(each)

    def mend(self) -> None:
        """Pass everything on again."""
        self._whole.set()

    def close(self) -> None:
        """The end of it."""
        self.cut()
        self._listener.close()

    def _listen(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                here, _ = self._listener.accept()
                if not self._whole.is_set():
                    here.close()
                    continue
                there = socket.create_connection(self._to)
                for one, other in ((here, there), (there, here)):
                    self._open.add(one)
                    threading.Thread(target=self._pass_on, args=(one, other), daemon=True).start()

    def _pass_on(self, one: socket.socket, other: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while data := one.recv(65_536):
                other.sendall(data)
        _end(one)
        _end(other)
        self._open.discard(one)


def _end(each: socket.socket) -> None:
    with contextlib.suppress(OSError):
        each.shutdown(socket.SHUT_RDWR)
    each.close()
