"""A stand-in platform: takes uploads by the rules of the demo's outlets, treats them as their sheets say, shows them.

`uvicorn stand_ins.platform:application`. Over HTTP:

- POST /token {"account", "secret"}: a bearer token that ends after some minutes.
- POST /uploads {"key", "name", "bytes", "sha256", "outlet", "use", "words"}: begins an upload, or finds the one of the
  same key again, as far as it came; PUT /uploads/N?offset=M: the next bytes of it. The last ones publish it.
- POST /posts: one file whole, as multipart form data (file, outlet, use, title, alt).
- GET /, /OUTLET/USE, /pictures/N: what was published, on pages as people see them.
- POST /faults ["slow", "429", "500", "cut", "expired", "full"]: what the next requests suffer, one each.

Errors are its own: {"code": "...", "message": "..."}.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import os
import secrets
import time
from collections.abc import Awaitable, Callable, Mapping
from email.parser import BytesParser
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs

from stand_ins.pages import front_page, use_page
from tray_core.errors import TrayError
from tray_core.intake import copies_of, file_facts, treat
from tray_core.outlets import Outlet, Use, breaches, read_outlet_file

Scope = Mapping[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[Mapping[str, Any]], Awaitable[None]]

ACCOUNT, SECRET = "quillmarsh", "brass-escapement"
"""Who may post: a made-up museum, and its made-up secret."""

TOKEN_SECONDS = 300
MOST_BYTES = 200_000_000
_SHEETS = Path(__file__).parents[1] / "demo" / "outlets"
FAULTS = ("slow", "429", "500", "cut", "expired", "full")


class Refused(Exception):
    """What the platform does not do, in its own words."""

    def __init__(self, status: int, code: str, message: str, **headers: str) -> None:
        super().__init__(message)
        self.status, self.code, self.message, self.headers = status, code, message, headers


class Cut(Exception):
    """The connection ends in the middle."""


class Platform:
    """Everything that it knows; files lie in `folder`."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.outlets: dict[str, Outlet] = {}
        for path in sorted(_SHEETS.glob("*.json")):
            outlet = read_outlet_file(path)
            self.outlets[outlet.name] = outlet
        self.tokens: dict[str, float] = {}
        self.faults: list[str] = []
        self.lock = asyncio.Lock()
        for each in ("uploads", "posts"):
            (folder / each).mkdir(parents=True, exist_ok=True)

    # Who asks.

    def token(self, account: str, secret: str) -> dict[str, Any]:
        if not (account == ACCOUNT and secrets.compare_digest(secret.encode(), SECRET.encode())):
            raise Refused(401, "wrong-secret", "Account or secret are not right.")
        made = secrets.token_urlsafe(16)
        self.tokens[made] = time.time() + TOKEN_SECONDS
        return {"token": made, "seconds": TOKEN_SECONDS}

    def check(self, authorization: str) -> None:
        token = authorization.removeprefix("Bearer ")
        if self.tokens.get(token, 0) < time.time():
            raise Refused(401, "expired-token", "The token has ended. Ask for another.")

    # Uploads.

    def use(self, outlet: str, use: str) -> tuple[Outlet, Use]:
        found = self.outlets.get(outlet)
        kind = found.use(use) if found else None
        if found is None or kind is None:
            raise Refused(422, "no-such-use", f"There is no {use!r} at {outlet!r}.")
        return found, kind

    def begin(self, about: dict[str, Any]) -> dict[str, Any]:
        key = str(about.get("key", ""))
        if not key:
            raise Refused(422, "no-key", "Send a key, so that nothing is posted twice.")
        number = hashlib.sha256(key.encode()).hexdigest()[:24]
        if (post := self._post(number)) is not None:
            return self._told(post)
        self.use(str(about.get("outlet")), str(about.get("use")))
        if int(about.get("bytes", 0)) > MOST_BYTES:
            raise Refused(413, "too-heavy", f"At most {MOST_BYTES:,} bytes.")
        part, notes = self._part(number)
        if not notes.exists():
            part.write_bytes(b"")
            notes.write_text(json.dumps({**about, "id": number}))
        return {"upload": number, "offset": part.stat().st_size}

    def _part(self, number: str) -> tuple[Path, Path]:
        if not (number.isalnum() and len(number) == 24):
            raise Refused(404, "no-such-upload", "There is no such upload.")
        return self.folder / "uploads" / f"{number}.part", self.folder / "uploads" / f"{number}.json"

    def more(self, number: str, offset: int, data: bytes) -> dict[str, Any]:
        if (post := self._post(number)) is not None:
            return self._told(post)
        part, notes = self._part(number)
        if not notes.exists():
            raise Refused(404, "no-such-upload", "There is no such upload.")
        about = json.loads(notes.read_text())
        there = part.stat().st_size
        if offset != there:
            raise Refused(409, "other-offset", f"Expected bytes from {there} on.", upload_offset=str(there))
        with part.open("ab") as file:
            file.write(data)
        there += len(data)
        if there < int(about["bytes"]):
            return {"upload": number, "offset": there}
        whole = part.read_bytes()
        if there > int(about["bytes"]) or hashlib.sha256(whole).hexdigest() != about["sha256"]:
            part.write_bytes(b"")
            raise Refused(422, "other-bytes", "What came is not what was announced. Send it again from the start.")
        try:
            made = self.publish(number, about, whole)
        finally:
            part.unlink()
            notes.unlink()
        return self._told(made)

    def publish(self, number: str, about: dict[str, Any], data: bytes) -> dict[str, Any]:
        """Check a whole file against the rules, treat it, and put it on the pages."""
        outlet, use = self.use(str(about["outlet"]), str(about["use"]))
        try:
            facts, _ = file_facts(str(about["name"]), data)
            refused = [each for each in breaches(outlet.name, use.rules, facts) if each.kind == "refuses"]
            if refused:
                raise Refused(422, refused[0].label.replace(" ", "-"), refused[0].text)
            served = treat(data, use.intake, str(about["name"]))
            copies = copies_of(data, use.intake, str(about["name"])) if use.intake.copies else []
        except TrayError as error:
            raise Refused(422, "no-picture", str(error)) from error
        folder = self.folder / "posts" / number
        folder.mkdir(exist_ok=True)
        (folder / "served").write_bytes(served.data)
        for copy in copies:
            (folder / f"copy-{copy.width}").write_bytes(copy.data)
        post = {
            "id": number,
            "name": str(about["name"]),
            "outlet": outlet.name,
            "use": use.use,
            "format": served.format,
            "width": served.width,
            "height": served.height,
            "copies": [[copy.width, copy.height] for copy in copies],
            "words": about.get("words") or {},
            "sha256": hashlib.sha256(data).hexdigest(),
            "at": time.time(),
        }
        # Published with its last file: a post is whole, or not there.
        part = folder / "post.part"
        part.write_text(json.dumps(post))
        part.replace(folder / "post.json")
        return post

    def _post(self, number: str) -> dict[str, Any] | None:
        try:
            found: dict[str, Any] = json.loads((self.folder / "posts" / number / "post.json").read_text())
        except (OSError, ValueError):
            return None
        return found

    def posts(self) -> list[dict[str, Any]]:
        """All, the newest first."""
        found = [self._post(each.name) for each in (self.folder / "posts").iterdir()]
        return sorted((each for each in found if each), key=lambda each: -float(each["at"]))

    @staticmethod
    def _told(post: Mapping[str, Any]) -> dict[str, Any]:
        page = f"/{post['outlet']}/{post['use']}#{post['id']}".replace(" ", "%20")
        return {"post": page, "sha256": post["sha256"], "picture": f"/pictures/{post['id']}"}


def _multipart(kind: str, body: bytes) -> dict[str, Any]:
    """The fields of a form; of the file, its name and bytes."""
    message = BytesParser().parsebytes(b"Content-Type: " + kind.encode() + b"\r\n\r\n" + body)
    found: dict[str, Any] = {}
    for part in message.get_payload() if message.is_multipart() else ():
        name = part.get_param("name", header="content-disposition")  # type: ignore[union-attr]
        data = part.get_payload(decode=True)  # type: ignore[union-attr]
        if name == "file":
            found["name"], found["data"] = part.get_filename() or "picture", data  # type: ignore[union-attr]
        elif isinstance(name, str) and isinstance(data, bytes):
            found[name] = data.decode(errors="replace")
    return found


class Application:
    """The platform over ASGI."""

    def __init__(self, folder: Path) -> None:
        self.platform = Platform(folder)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            while (await receive())["type"] != "lifespan.shutdown":
                await send({"type": "lifespan.startup.complete"})
            await send({"type": "lifespan.shutdown.complete"})
            return
        headers = {key.decode(): value.decode("latin-1") for key, value in scope["headers"]}
        try:
            body = await self._body(receive)
            status, kind, data = await self._answer(scope, headers, body)
            more: dict[str, str] = {}
        except Refused as error:
            status, kind = error.status, "application/json"
            data = json.dumps({"code": error.code, "message": error.message}).encode()
            more = {name.replace("_", "-"): value for name, value in error.headers.items()}
        except Cut:
            # Half an answer, then nothing: as when a cable is pulled.
            await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", b"1000")]})
            raise
        named = [(name.encode(), value.encode()) for name, value in {"content-type": kind, **more}.items()]
        await send({"type": "http.response.start", "status": status, "headers": named})
        await send({"type": "http.response.body", "body": data})

    @staticmethod
    async def _body(receive: Receive) -> bytes:
        pieces, size = [], 0
        while True:
            message = await receive()
            pieces.append(message.get("body", b""))
            size += len(pieces[-1])
            if size > MOST_BYTES:
                raise Refused(413, "too-heavy", f"At most {MOST_BYTES:,} bytes.")
            if not message.get("more_body"):
                return b"".join(pieces)

    async def _answer(self, scope: Scope, headers: Mapping[str, str], body: bytes) -> tuple[int, str, bytes]:
        method, path = scope["method"], scope["path"]
        known = self.platform
        if method == "GET":
            return await asyncio.to_thread(self._page, path)
        if path == "/faults":
            known.faults[:] = [each for each in json.loads(body) if each in FAULTS]
            return 200, "application/json", b"{}"
        if path == "/token":
            about = self._json(body)
            told = known.token(str(about.get("account", "")), str(about.get("secret", "")))
            return 200, "application/json", json.dumps(told).encode()
        await self._suffer(headers)
        known.check(headers.get("authorization", ""))
        async with known.lock:
            if method == "POST" and path == "/uploads":
                told = await asyncio.to_thread(known.begin, self._json(body))
            elif method == "PUT" and path.startswith("/uploads/"):
                offset = int(parse_qs(scope["query_string"].decode()).get("offset", ["0"])[0])
                told = await asyncio.to_thread(known.more, path.rpartition("/")[2], offset, body)
            elif method == "POST" and path == "/posts":
                form = _multipart(headers.get("content-type", ""), body)
                if "data" not in form:
                    raise Refused(422, "no-file", "Send the picture as the field named file.")
                number = secrets.token_hex(12)
                about = {**form, "words": {name: form[name] for name in ("title", "alt") if name in form}}
                about.setdefault("outlet", ""), about.setdefault("use", "")
                told = known._told(await asyncio.to_thread(known.publish, number, about, form["data"]))
            else:
                raise Refused(404, "not-found", "There is nothing here.")
        return 200, "application/json", json.dumps(told).encode()

    @staticmethod
    def _json(body: bytes) -> dict[str, Any]:
        try:
            found = json.loads(body)
        except ValueError as error:
            raise Refused(400, "no-json", "Expected JSON.") from error
        if not isinstance(found, dict):
            raise Refused(400, "no-json", "Expected a JSON object.")
        return found

    async def _suffer(self, headers: Mapping[str, str]) -> None:
        """The next fault that was asked for."""
        fault = self.platform.faults.pop(0) if self.platform.faults else ""
        if fault == "slow":
            await asyncio.sleep(1.5)
        elif fault == "429":
            raise Refused(429, "slow-down", "Too many at once.", retry_after="1")
        elif fault == "500":
            raise Refused(500, "fault", "Something broke here.")
        elif fault == "full":
            raise Refused(507, "full", "Your store is full.")
        elif fault == "expired":
            self.platform.tokens.pop(headers.get("authorization", "").removeprefix("Bearer "), None)
        elif fault == "cut":
            raise Cut

    def _page(self, path: str) -> tuple[int, str, bytes]:
        known = self.platform
        if path == "/":
            return 200, "text/html; charset=utf-8", front_page(list(known.outlets.values()), known.posts()).encode()
        if path.startswith("/pictures/"):
            number, _, width = path.removeprefix("/pictures/").partition("/")
            post = known._post(number) if number.isalnum() else None
            if post is None or not (width == "" or width.isdecimal()):
                raise Refused(404, "not-found", "There is no such picture.")
            file = known.folder / "posts" / number / (f"copy-{width}" if width else "served")
            if not file.exists():
                raise Refused(404, "not-found", "There is no such picture.")
            return 200, f"image/{post['format']}", file.read_bytes()
        outlet, _, use = path.strip("/").partition("/")
        found, kind = known.use(outlet, use)
        posts = [post for post in known.posts() if (post["outlet"], post["use"]) == (outlet, use)]
        return 200, "text/html; charset=utf-8", use_page(found, kind, posts).encode()


def _folder() -> Path:
    return Path(os.environ.get("UPPER_TRAY_VAR", Path(__file__).parents[1] / "var")) / "stand-in"


application = Application(_folder())
