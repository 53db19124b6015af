"""Tests with a studio of their own, a folder of originals, and workers that really work."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.db import connection, transaction
from django.test import TransactionTestCase
from procrastinate.contrib.django import app

from server.photos import reading
from server.photos.models import Photo
from server.project.conf import PROJECT, conf
from server.project.supervise import UNCHECKED
from server.recipes import flows as recipe_flows
from server.recipes.models import Recipe
from server.runs.models import Rendition, Run
from server.studios.models import Member, Root, Studio
from server.trays import flows, gathering
from server.trays.models import Tray
from tray_core.fingerprint import content_digest
from tray_core.line.preview import Looked, look_at
from tray_core.photo import PhotoFacts
from tray_core.tests.samples import PHOTOS
from tray_core.tests.samples import recipe as core_recipe

PATIENCE = 300.0
"""Seconds until a test gives up waiting; none waits as long on a machine that works."""

_looked: dict[str, Looked] = {}


def _look_once(facts: PhotoFacts, data: bytes) -> Looked:
    """What `look_at` says, which is always the same of a content: nearly all tests begin with the same photographs."""
    key = content_digest(data)
    if key not in _looked:
        _looked[key] = look_at(facts, data)
    return _looked[key]


reading.look_at = _look_once

_EMPTY = """
DO $$
DECLARE found text; filled text[] := '{}'; holds boolean;
BEGIN
    FOR found IN SELECT format('%I', tablename) FROM pg_tables WHERE schemaname = 'public'
        AND tablename NOT IN ('django_migrations', 'django_content_type', 'auth_permission')
    LOOP
        EXECUTE 'SELECT EXISTS (SELECT 1 FROM ' || found || ')' INTO holds;
        IF holds THEN filled := filled || found; END IF;
    END LOOP;
    IF filled <> '{}' THEN EXECUTE 'TRUNCATE ' || array_to_string(filled, ', ') || ' CASCADE'; END IF;
END $$"""


class StudioCase(TransactionTestCase):
    """A studio with one person, signed in, and a root that is a temporary folder."""

    def setUp(self) -> None:
        super().setUp()
        for folder in (conf.output_root, conf.media / "renditions", conf.media / "uploads"):
            shutil.rmtree(folder, ignore_errors=True)
            folder.mkdir(parents=True)
        holder = tempfile.TemporaryDirectory()
        self.addCleanup(holder.cleanup)
        self.folder = Path(holder.name).resolve()
        self.studio = Studio.objects.create(name="Quillmarsh")
        self.user = get_user_model().objects.create_user("ada", password="brass-escapement")
        Member.objects.create(user=self.user, studio=self.studio)
        self.output = self.studio.output
        self.output.mkdir()
        self.root = Root.objects.create(studio=self.studio, name="Photographs", path=str(self.folder))
        self.client.force_login(self.user)
        self.log = (conf.var / "workers.log").open("ab")
        self.addCleanup(self.log.close)

    def _fixture_teardown(self) -> None:
        """Empty what a test filled, the queue's tables too, and not what no test changes: Django's own way would make
        all permissions anew after each test."""
        with connection.cursor() as cursor:
            cursor.execute(_EMPTY)

    def copy(self, *names: str, folder: str = "") -> list[Path]:
        """Put demo photographs into the root."""
        (self.folder / folder).mkdir(parents=True, exist_ok=True)
        return [Path(shutil.copy(PHOTOS / name, self.folder / folder / Path(name).name)) for name in names]

    def recipe(self, title: str = "Journal", **stations: Any) -> Recipe:
        stations.setdefault("place", {"to": "output", "subfolder": "{recipe}", "taken": "new-name"})
        stations.setdefault("size", {"by": "long-edge", "pixels": 240, "enlarge": "never"})
        return recipe_flows.create(self.studio, self.user, core_recipe(title, **stations).to_json())

    def tray(self, *recipes: Recipe, name: str = "Autumn") -> Tray:
        tray = flows.create_tray(self.studio, name)
        if recipes:
            flows.light(tray, [recipe.pk for recipe in recipes])
        gathering.add_folder(tray, self.root, "")
        return tray

    def read_already(self, tray: Tray, paths: list[str]) -> list[int]:
        """Photos of four shapes as if they were read, that no files stand behind: planning asks for none."""
        facts = {"state": "ready", "format": "JPEG", "mode": "RGB", "profile": "sRGB"}
        rows = []
        for number, path in enumerate(paths):
            width, height = ((3000, 2000), (2000, 3000), (2400, 2400), (4000, 1500))[number % 4]
            row = Photo(studio=self.studio, root=self.root, path=path, **facts, width=width, height=height)
            row.name, row.folder = Path(path).name, Path(path).parent.name
            row.bytes, row.digest = 1000 + number, f"{number:032}"
            rows.append(row)
        made = Photo.objects.bulk_create(rows)
        with transaction.atomic():
            gathering.gather(tray, self.root, paths)
        return [photo.pk for photo in made]

    def work(self) -> None:
        """Do all waiting jobs, now, in a thread of its own: in browser tests this one has an event loop."""
        failed: list[BaseException] = []

        def run() -> None:
            try:
                with app.replace_connector(app.connector.get_worker_connector()):
                    app.run_worker(
                        queues=["make", "read"],
                        wait=False,
                        install_signal_handlers=False,
                        listen_notify=False,
                        concurrency=1,
                    )
            except BaseException as error:
                failed.append(error)
            finally:
                connection.close()

        thread = threading.Thread(target=run)
        thread.start()
        thread.join()
        if failed:
            raise failed[0]

    def worker(self, *queues: str, **environment: str) -> subprocess.Popen[bytes]:
        """A real worker process on the test database."""
        command = [sys.executable, "server/manage.py", "procrastinate", UNCHECKED, "worker", "--concurrency", "1"]
        process = subprocess.Popen(
            [*command, "--queues", ",".join(queues)],
            cwd=PROJECT,
            env={**os.environ, "UPPER_TRAY_DATABASE": connection.settings_dict["NAME"], **environment},
            stdout=self.log,
            stderr=self.log,
        )
        self.addCleanup(process.wait)
        self.addCleanup(process.kill)
        return process

    def wait_for(self, found: Callable[[], Any]) -> Any:
        """The first true answer; fails after so long that even a busy machine would have given it."""
        deadline = time.monotonic() + PATIENCE
        while time.monotonic() < deadline:
            if answer := found():
                return answer
            time.sleep(0.05)
        raise AssertionError(f"nothing came of it in {PATIENCE} s")

    def get(self, path: str, status: int = 200) -> Any:
        answer = self.client.get(f"/api/{path}")
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def send(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        answer = getattr(self.client, method)(f"/api/{path}", body, content_type="application/json")
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json() if answer.content else None

    def change(self, recipe: Recipe, content: Any, status: int = 200) -> Any:
        """Keep a change of a recipe that began from its newest version."""
        newest = Recipe.objects.select_related("current").get(pk=recipe.pk).current
        version = newest.number if newest else 1
        return self.send("put", f"recipes/{recipe.pk}", {"content": content, "version": version}, status=status)

    def rows(self, tray: int) -> list[Any]:
        """The whole board's rows, as a page with enough room for them gets them."""
        photos = self.get(f"trays/{tray}/board")["photos"]
        found: list[Any] = self.send("post", f"trays/{tray}/rows", {"photos": photos})
        return found

    def states(self, run: Run) -> dict[str, int]:
        states = list(run.renditions.values_list("state", flat=True))
        return {state: states.count(state) for state in set(states)}

    def made(self, run: Run) -> list[Rendition]:
        return list(run.renditions.filter(state=Rendition.State.MADE))


class TrayCase(StudioCase):
    """A studio whose API is asked about one tray."""

    tray_: Tray

    def send(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        more = {} if body is None else {"data": body, "content_type": "application/json"}
        answer = getattr(self.client, method)(f"/api/trays/{self.tray_.pk}/{path}", **more)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json() if "json" in answer["Content-Type"] else answer.content
