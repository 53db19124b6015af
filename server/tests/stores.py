"""Stores to deliver to, of this machine alone: the stand-in platform, WebDAV, requests as S3 has them, SFTP."""

from __future__ import annotations

import hashlib
import os
import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import paramiko
import uvicorn
from cheroot import wsgi
from wsgidav.wsgidav_app import WsgiDAVApp

from stand_ins.platform import Application, Platform


def free_port() -> int:
    with socket.socket() as listener:
        listener.bind(("127.0.0.1", 0))
        return int(listener.getsockname()[1])


@contextmanager
def platform(folder: Path) -> Iterator[tuple[str, Platform]]:
    """The stand-in platform, and what it knows."""
    application = Application(folder)
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    server = uvicorn.Server(uvicorn.Config(application, log_level="critical", lifespan="off"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{listener.getsockname()[1]}", application.platform
    finally:
        server.should_exit = True
        thread.join(10)
        listener.close()


@contextmanager
def webdav(folder: Path) -> Iterator[str]:
    """A WebDAV server for the user ada."""
    folder.mkdir(exist_ok=True)
    settings = {
        "provider_mapping": {"/": str(folder)},
        "simple_dc": {"user_mapping": {"*": {"ada": {"password": "brass"}}}},
        "verbose": 0,
        "logging": {"enable": False},
        "property_manager": True,
        "lock_storage": True,
    }
    port = free_port()
    server = wsgi.Server(("127.0.0.1", port), WsgiDAVApp(settings))
    server.prepare()
    thread = threading.Thread(target=server.serve, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        server.stop()
        thread.join(10)


class _Bucket(BaseHTTPRequestHandler):
    """HEAD and PUT of objects, as the S3 API has them; whoever does not sign is refused."""

    objects: dict[str, tuple[bytes, dict[str, str]]]
    says: list[str]

    def log_message(self, *_: Any) -> None:
        return

    def _error(self, status: int, code: str) -> None:
        body = f"<Error><Code>{code}</Code><Message>{code}</Message></Error>".encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/xml")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        if self.command != "HEAD":
            self.wfile.write(body)

    def do_HEAD(self) -> None:
        name = self.path.lstrip("/")
        if "Credential=ada/" not in self.headers.get("Authorization", ""):
            self._error(403, "AccessDenied")
        elif name in self.objects or name.rstrip("/") == "museum":
            data, more = self.objects.get(name, (b"", {}))
            self.send_response(200)
            self.send_header("Content-Length", str(len(data)))
            self.send_header("ETag", f'"{hashlib.md5(data, usedforsecurity=False).hexdigest()}"')
            self.send_header("Last-Modified", "Tue, 14 Oct 2031 09:00:00 GMT")
            for key, value in more.items():
                self.send_header(key, value)
            self.end_headers()
        else:
            self._error(404, "NoSuchKey")

    def do_PUT(self) -> None:
        data = self.rfile.read(int(self.headers["Content-Length"]))
        if self.says:
            self._error(*{"SlowDown": (503, "SlowDown"), "clock": (403, "RequestTimeTooSkewed")}[self.says.pop(0)])
            return
        more = {key: value for key, value in self.headers.items() if key.lower().startswith("x-amz-meta-")}
        self.objects[self.path.lstrip("/")] = data, more
        self.send_response(200)
        self.send_header("ETag", f'"{hashlib.md5(data, usedforsecurity=False).hexdigest()}"')
        self.send_header("Content-Length", "0")
        self.end_headers()


@contextmanager
def bucket() -> Iterator[tuple[str, dict[str, tuple[bytes, dict[str, str]]], list[str]]]:
    """An address, its objects, and errors that it answers with first."""
    handler = type("Bucket", (_Bucket,), {"objects": {}, "says": []})
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_port}", handler.objects, handler.says
    finally:
        server.shutdown()
        server.server_close()
        thread.join(10)


class _Handle(paramiko.SFTPHandle):
    def stat(self) -> Any:
        return paramiko.SFTPAttributes.from_stat(os.fstat(self.readfile.fileno()))  # type: ignore[attr-defined]


class _Files(paramiko.SFTPServerInterface):
    """Files below a folder."""

    top: Path

    def _real(self, path: str) -> Path:
        return self.top / self.canonicalize(path).lstrip("/")

    def _told(self, work: Any) -> Any:
        try:
            return work()
        except OSError as error:
            return paramiko.SFTPServer.convert_errno(error.errno or 0)

    def stat(self, path: str) -> Any:
        return self._told(lambda: paramiko.SFTPAttributes.from_stat(os.stat(self._real(path))))

    lstat = stat

    def mkdir(self, path: str, attr: Any) -> Any:
        def work() -> int:
            self._real(path).mkdir()
            return int(paramiko.SFTP_OK)

        return self._told(work)

    def rename(self, oldpath: str, newpath: str) -> Any:
        return self._told(lambda: (self._real(oldpath).rename(self._real(newpath)), paramiko.SFTP_OK)[1])

    def open(self, path: str, flags: int, attr: Any) -> Any:
        def work() -> Any:
            handle = _Handle(flags)
            writes = bool(flags & (os.O_WRONLY | os.O_RDWR))
            file = self._real(path).open("w+b" if writes else "rb")
            handle.filename, handle.readfile, handle.writefile = path, file, file  # type: ignore[attr-defined]
            return handle

        return self._told(work)


class _Door(paramiko.ServerInterface):
    def check_auth_password(self, username: str, password: str) -> int:
        good = (username, password) == ("ada", "brass")
        return int(paramiko.AUTH_SUCCESSFUL if good else paramiko.AUTH_FAILED)

    def check_channel_request(self, kind: str, chanid: int) -> int:
        return int(paramiko.OPEN_SUCCEEDED)


@contextmanager
def sftp(folder: Path) -> Iterator[tuple[int, str]]:
    """A port, and the fingerprint of its key."""
    import base64

    folder.mkdir(exist_ok=True)
    key = paramiko.RSAKey.generate(2048)
    print_ = "SHA256:" + base64.b64encode(hashlib.sha256(key.asbytes()).digest()).decode().rstrip("=")
    files = type("Files", (_Files,), {"top": folder})
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    listener.listen(10)
    open_: list[paramiko.Transport] = []

    def serve() -> None:
        while True:
            try:
                client, _ = listener.accept()
            except OSError:
                return
            transport = paramiko.Transport(client)
            open_.append(transport)
            transport.add_server_key(key)
            transport.set_subsystem_handler("sftp", paramiko.SFTPServer, files)
            # Whoever does not trust the key is gone again; others come.
            with suppress(EOFError, paramiko.SSHException):
                transport.start_server(server=_Door())

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    try:
        yield listener.getsockname()[1], print_
    finally:
        listener.shutdown(socket.SHUT_RDWR)
        listener.close()
        for transport in open_:
            transport.close()
        thread.join(10)
