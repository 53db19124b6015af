"""Hints to open pages, and limits on what is sent: over a real server."""

from __future__ import annotations

import http.client
import json
import socket
import threading
from unittest import mock

import uvicorn
from django.contrib.sessions.models import Session
from django.db import OperationalError, connection

from server.board import starting
from server.live import views
from server.live.hub import hint
from server.project.asgi import application
from server.project.conf import conf
from server.studios.models import Studio
from server.tests.cases import StudioCase


class Served(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        listener = socket.socket()
        listener.bind(("127.0.0.1", 0))
        self.addCleanup(listener.close)
        self.port = listener.getsockname()[1]
        server = uvicorn.Server(uvicorn.Config(application, log_level="error", timeout_graceful_shutdown=1))
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 10)
        self.addCleanup(setattr, server, "should_exit", True)
        self.wait_for(lambda: server.started)

    def ask(self, method: str, path: str, **headers: str) -> http.client.HTTPResponse:
        connection = http.client.HTTPConnection("localhost", self.port, timeout=20)
        self.addCleanup(connection.close)
        cookie = f"sessionid={self.client.cookies['sessionid'].value}"
        connection.request(method, path, headers={"Cookie": cookie, **headers})
        return connection.getresponse()

    def test_hints_of_the_own_studio_arrive_and_others_do_not(self) -> None:
        stream = self.ask("GET", "/events")
        self.assertEqual((stream.status, stream.headers["Content-Type"]), (200, "text/event-stream"))
        other = Studio.objects.create(name="Elsewhere")

        def heard() -> dict[str, object]:
            while True:
                line = stream.readline().decode()
                if line.startswith("data: "):
                    found: dict[str, object] = json.loads(line.removeprefix("data: "))
                    return found

        self.assertEqual(heard(), {"kind": "resync", "id": 0})
        hint(other.pk, "run", 1)
        hint(self.studio.pk, "run", 7)
        self.assertEqual(heard(), {"kind": "run", "id": 7})

    def test_open_pages_and_stalled_downloads_hold_no_connection(self) -> None:
        """Each held one of sixteen until it ended; with sixteen pages open, everybody else waited."""
        self.copy("shop-stock/QM4_0117.jpg", "shop-stock/QM4_0118.jpg")
        tray = self.tray(self.recipe(size={"by": "long-edge", "pixels": 2000, "enlarge": "never"}))
        self.work()
        run = starting.start_run(tray)
        self.work()
        for _ in range(40):
            self.assertEqual(self.ask("GET", "/events").status, 200)
            self.assertEqual(self.ask("GET", f"/api/runs/{run.pk}/zip").status, 200)

        pool = connection.pool  # type: ignore[attr-defined]  # the stubs do not know it yet

        def held() -> int:
            found = pool.get_stats()
            return int(found["pool_size"] - found["pool_available"])

        # This test's own; one that was just given back may be seen a moment longer.
        self.wait_for(lambda: held() <= 2)
        self.assertEqual(self.ask("GET", f"/api/trays/{tray.pk}/board").status, 200)

    def test_strangers_get_no_stream(self) -> None:
        self.assertEqual(self.ask("GET", "/events", Cookie="").status, 401)

    def test_a_body_that_is_too_large_is_refused_before_it_is_read(self) -> None:
        length = str(conf.upload_bytes + 1_000_000)
        answer = self.ask("POST", "/api/trays/1/uploads", **{"Content-Length": length})
        self.assertEqual(answer.status, 413)
        self.assertIn("Expected at most 1000 MB", json.loads(answer.read())["detail"])
        self.assertEqual(self.ask("POST", "/api/trays/1/runs", **{"Content-Length": "5000000"}).status, 413)
        # Nobody's body is taken, and of what does not say its size no more than is allowed.
        refused = self.ask("POST", "/api/trays/1/uploads", **{"Content-Length": "5000000", "Cookie": ""})
        self.assertEqual(refused.status, 401)
        connection = http.client.HTTPConnection("localhost", self.port, timeout=20)
        self.addCleanup(connection.close)
        cookie = f"sessionid={self.client.cookies['sessionid'].value}"
        pieces = (b"x" * 100_000 for _ in range(60))
        connection.request("POST", "/api/trays", pieces, {"Cookie": cookie}, encode_chunked=True)
        self.assertEqual(connection.getresponse().status, 413)

    def test_a_session_that_is_ended_elsewhere_ends_its_stream(self) -> None:
        with mock.patch.object(views, "HEARTBEAT", 0.2):
            answer = self.ask("GET", "/events")
            self.assertEqual(answer.readline(), b"retry: 1000\n")
            Session.objects.all().delete()
            hint(self.studio.pk, "tray", 1)
            self.wait_for(lambda: not answer.read1())

    def test_the_page_and_what_it_needs_come_from_here(self) -> None:
        page = self.ask("GET", "/trays/1").read().decode()
        self.assertNotIn("http://", page)
        self.assertNotIn("https://", page)
        script = page.split('src="')[1].split('"')[0]
        answer = self.ask("GET", script)
        self.assertEqual(answer.status, 200)
        self.assertIn("immutable", answer.headers["Cache-Control"])


class Away(StudioCase):
    def test_a_database_that_is_away_is_said_and_asked_again(self) -> None:
        self.client.raise_request_exception = False
        gone = OperationalError("connection refused")
        broken = mock.patch("django.contrib.sessions.backends.base.SessionBase.get", side_effect=gone)
        with broken, self.assertLogs("django.request", "ERROR"):
            page = self.client.get("/")
            answer = self.client.get("/api/trays")
        self.assertEqual((page.status_code, answer.status_code, answer["Retry-After"]), (503, 503, "2"))
        self.assertIn('http-equiv="refresh"', page.content.decode())
        self.assertEqual(answer.json()["title"], "The database cannot be reached")
        self.assertEqual(self.client.get("/api/trays").status_code, 200)
