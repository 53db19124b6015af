"""Inlets: what arrives is made once, whatever ends in between; what cannot be is told; nothing goes in circles."""

from __future__ import annotations

import contextlib
import os
import threading
import time
from datetime import timedelta
from typing import Any
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.db import connection
from django.test import Client
from django.utils import timezone

from server.inlets import listening, posting, watching
from server.inlets.models import Arrival, Inlet
from server.photos.models import Photo
from server.runs.models import Rendition, Run
from server.studios.models import Root, Studio
from server.tests.cases import StudioCase
from tray_core.tests.samples import jpeg, scene

State = Arrival.State


class Inlets(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        posting.TRIES.forget()
        Root.objects.update(writable=True)
        self.root.refresh_from_db()
        self.into = self.folder / "incoming"
        self.into.mkdir()
        self.recipe_ = self.recipe("Journal")

    def inlet(self, status: int = 200, **more: Any) -> Any:
        body = {"name": "Card", "root": self.root.pk, "path": "incoming", "recipes": [self.recipe_.pk], "settle": 0}
        return self.send("post", "inlets", body | more, status)

    def put(self, name: str, seed: int = 1, size: int = 300) -> None:
        path = self.into / name
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(jpeg(scene(size, 200, seed=seed)))

    def look(self, times: int = 4) -> dict[str, int]:
        """What the system worker and the others do in a while."""
        for _ in range(times):
            watching.look_at_all()
            self.work()
        states = list(Arrival.objects.values_list("state", flat=True))
        return {state: states.count(state) for state in set(states)}

    def test_what_arrives_is_made_once(self) -> None:
        inlet = self.inlet()
        for number in range(5):
            self.put(f"{number}.jpg", number + 1)
        (self.into / ".hidden.jpg").write_bytes(b"x")
        (self.into / "half.jpg.part").write_bytes(b"x")
        (self.into / "notes.txt").write_text("x")
        self.assertEqual(self.look(), {"made": 5})
        self.assertEqual(len(list((self.output / "Journal").iterdir())), 5)
        self.look(3)
        self.assertEqual((Run.objects.count(), Rendition.objects.count(), Arrival.objects.count()), (1, 5, 5))
        told = self.get(f"inlets/{inlet['id']}/arrivals")
        self.assertEqual((told["total"], told["arrivals"][0]["run"]), (5, Run.objects.get().pk))
        # The same file changed is another one.
        time.sleep(0.02)
        self.put("0.jpg", 9)
        self.assertEqual((self.look(), Rendition.objects.count()), ({"made": 6}, 6))

    def test_half_copied_files_wait(self) -> None:
        self.inlet(settle=60)
        whole = jpeg(scene(400, 300))
        path = self.into / "slow.jpg"
        path.write_bytes(whole[:2000])
        self.assertEqual(self.look(2), {"settling": 1})
        Arrival.objects.update(since=timezone.now() - timedelta(minutes=2))
        path.write_bytes(whole)
        # It changed meanwhile: it settles anew.
        self.assertEqual(self.look(2), {"settling": 1})
        self.assertEqual(Arrival.objects.get().size, len(whole))
        Arrival.objects.update(since=timezone.now() - timedelta(minutes=2))
        self.assertEqual(self.look(), {"made": 1})
        (self.into / "gone.jpg").write_bytes(whole)
        self.look(1)
        (self.into / "gone.jpg").unlink()
        self.assertEqual(self.look(1), {"made": 1, "gone": 1})

    def test_a_bad_file_is_told_and_nothing_else_stops(self) -> None:
        inlet = self.inlet()
        self.put("good.jpg")
        (self.into / "bad.jpg").write_bytes(b"\xff\xd8 no picture")
        self.assertEqual(self.look(), {"made": 1, "failed": 1})
        bad = self.get(f"inlets/{inlet['id']}/arrivals?state=failed")["arrivals"][0]
        self.assertTrue(bad["reason"])
        # A folder that vanishes is told, and what is known stays.
        self.into.rename(self.folder / "away")
        self.look(1)
        self.assertIn("gone", self.get("inlets")[0]["problem"])
        self.assertEqual(Arrival.objects.filter(state=State.MADE).count(), 1)
        (self.folder / "away").rename(self.into)
        self.put("more.jpg", 3)
        self.assertEqual((self.look(), self.get("inlets")[0]["problem"]), ({"made": 2, "failed": 1}, ""))

    def test_files_are_put_away_once_their_receipts_are_good(self) -> None:
        self.inlet(after="done")
        self.put("day/1.jpg")
        self.assertEqual(self.look(), {"made": 1})
        self.assertEqual([str(p.relative_to(self.into)) for p in self.into.rglob("*.jpg")], ["done/day/1.jpg"])
        self.assertEqual((self.look(2), Photo.objects.get().path), ({"made": 1}, "incoming/done/day/1.jpg"))
        self.assertEqual(Photo.objects.get().state, Photo.State.READY)

    def test_only_copies_with_good_receipts_are_removed(self) -> None:
        self.inlet(after="remove")
        self.put("1.jpg")
        with mock.patch("server.runs.files.look", return_value="changed"):
            self.assertEqual(self.look(), {"made": 1})
        self.assertTrue((self.into / "1.jpg").exists())
        self.assertIn("stays", Arrival.objects.get().reason)
        self.put("2.jpg", 2)
        self.assertEqual(self.look(), {"made": 2})
        self.assertEqual([path.name for path in self.into.iterdir()], ["1.jpg"])

    def test_recipes_by_subfolder_or_by_choice(self) -> None:
        other = self.recipe("Gridwick", size={"by": "width", "pixels": 100})
        self.inlet(choose="folder", recipes=[])
        self.put("journal/1.jpg")
        self.put("Gridwick/2.jpg", 2)
        self.put("attic/3.jpg", 3)
        self.put("4.jpg", 4)
        self.assertEqual(self.look(), {"made": 2, "waiting": 2})
        made = set(Rendition.objects.values_list("photo__name", "recipe__title"))
        self.assertEqual(made, {("1.jpg", "Journal"), ("2.jpg", "Gridwick")})
        reasons = {row.path: row.reason for row in Arrival.objects.filter(state=State.WAITING)}
        self.assertIn("named attic", reasons["attic/3.jpg"])
        inlet = Inlet.objects.get()
        self.send("post", f"inlets/{inlet.pk}/choice", {"recipes": []}, 422)
        chosen = self.send("post", f"inlets/{inlet.pk}/choice", {"recipes": [other.pk, self.recipe_.pk]})
        self.assertEqual((chosen["count"], self.look()), (2, {"made": 4}))
        self.assertEqual(Rendition.objects.count(), 6)

    def test_a_crop_that_is_asked_for_holds_nothing_else_up(self) -> None:
        asks = self.recipe(
            "Banner", frame={"way": "crop", "shape": "3:1", "anchor": "ask"}, size={"by": "width", "pixels": 200}
        )
        self.inlet(recipes=[self.recipe_.pk, asks.pk])
        self.put("1.jpg")
        self.assertEqual(self.look(), {"making": 1})
        self.assertEqual(Rendition.objects.filter(state="made").count(), 1)
        self.assertEqual(Rendition.objects.filter(state="asking").count(), 1)

    def test_nothing_is_lost_or_made_twice_whatever_ends_in_between(self) -> None:
        self.inlet(after="done")
        for number in range(6):
            self.put(f"{number}.jpg", number + 1)
        steps = ("_arrive", "_take_in", "_start", "_finish", "_start_run", "_put_away", "_end", "gather", "start_run")
        for name in steps:
            for after in (False, True):
                real = getattr(watching, name)

                def ends(*given: Any, real: Any = real, after: bool = after, **more: Any) -> Any:
                    if after:
                        real(*given, **more)
                    raise KeyboardInterrupt

                with mock.patch.object(watching, name, ends), contextlib.suppress(KeyboardInterrupt):
                    watching.look(Inlet.objects.get())
                self.work()
        self.assertEqual(self.look(), {"made": 6})
        self.assertEqual((Rendition.objects.count(), len(list((self.output / "Journal").iterdir()))), (6, 6))
        self.assertEqual(len(list((self.into / "done").iterdir())), 6)

    def test_many_at_once(self) -> None:
        """5,000 files: taken in by portions, each noted once, with a bounded number of questions to the database."""
        inlet = Inlet.objects.get(pk=self.inlet(settle=0)["id"])
        for number in range(5000):
            (self.into / f"{number:04}.jpg").touch()
            os.truncate(self.into / f"{number:04}.jpg", 100)
        there = watching._files(inlet)
        assert there is not None
        with self.assertNumQueries(10):
            watching._arrive(inlet, there)
        with self.assertNumQueries(4):
            watching._arrive(inlet, there)
        for _ in range(5):
            watching._take_in(inlet, there)
        self.assertEqual(Arrival.objects.filter(state=State.READING).count(), 5000)
        self.assertEqual(Photo.objects.count(), 5000)

    def test_circles_and_what_may_not_be_touched_are_refused(self) -> None:
        root = Root.objects.create(studio=self.studio, name="Out", path=str(self.output.parent), writable=True)
        for path in ("", self.output.name):
            told = self.inlet(422, root=root.pk, path=path, name=f"x{path}")
            self.assertEqual(told["fields"][0]["field"], "path")
        (self.output / "Journal").mkdir()
        self.inlet(422, root=root.pk, path=f"{self.output.name}/Journal")
        self.inlet(404, path="nowhere")
        self.inlet(404, path="../..")
        self.assertEqual(self.inlet(422, recipes=[])["fields"][0]["field"], "recipes")
        Root.objects.update(writable=False)
        self.assertEqual(self.inlet(422, after="remove")["fields"][0]["field"], "after")
        kept = self.inlet()
        self.assertEqual(self.inlet(422)["fields"][0]["field"], "name")
        changed = self.send("put", f"inlets/{kept['id']}", {**kept, "settle": 9})
        self.assertEqual((changed["settle"], changed["version"]), (9, 2))
        self.send("put", f"inlets/{kept['id']}", {**kept, "settle": 5}, 409)

    def test_what_a_run_puts_beside_is_no_arrival(self) -> None:
        beside = self.recipe("Web", place={"to": "beside", "subfolder": "web", "taken": "new-name"})
        self.inlet(recipes=[beside.pk])
        self.put("1.jpg")
        self.assertEqual(self.look(6), {"made": 1})
        self.assertTrue((self.into / "web" / "1.jpg").exists())
        self.assertEqual(Rendition.objects.count(), 1)

    def post(self, inlet: Any, token: str, *files: tuple[str, bytes], status: int = 201) -> Any:
        given = {f"file{i}": SimpleUploadedFile(name, data) for i, (name, data) in enumerate(files)}
        answer = Client().post(inlet["address"], given, headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        return answer.json()

    def test_files_are_posted_with_a_token(self) -> None:
        inlet = self.inlet()
        one, other = jpeg(scene(200, 200, seed=1)), jpeg(scene(200, 200, seed=2))
        told = self.post(inlet, inlet["token"], ("a.jpg", one), ("../../b c.jpg", other))
        self.assertEqual([each["name"] for each in told["files"]], ["a.jpg", "b c.jpg"])
        # Sent again: nothing is there twice; another of the name gets a number.
        self.assertFalse(self.post(inlet, inlet["token"], ("a.jpg", one), status=200)["files"][0]["new"])
        self.assertEqual(self.post(inlet, inlet["token"], ("a.jpg", other))["files"][0]["name"], "a-2.jpg")
        self.assertEqual(self.look(), {"made": 3})
        self.post(inlet, "guess", ("a.jpg", one), status=401)
        renewed = self.send("post", f"inlets/{inlet['id']}/token")
        self.post(inlet, inlet["token"], ("a.jpg", one), status=401)
        self.post(inlet, renewed["token"], ("a.jpg", one), status=200)
        for _ in range(28):
            self.post(inlet, "guess", ("a.jpg", one), status=401)
        self.assertIn("Wait", self.post(inlet, "guess", ("a.jpg", one), status=429)["detail"])
        self.assertTrue(posting.may_post(inlet["address"], renewed["token"]))
        self.assertFalse(posting.may_post("/inlet/99/files", renewed["token"]))
        self.assertEqual(list(self.into.glob(".*")), [])

    def test_a_folder_is_sent_from_the_command_line(self) -> None:
        self.inlet()
        card = self.folder / "card" / "DCIM"
        card.mkdir(parents=True)
        for number in range(3):
            (card / f"{number}.jpg").write_bytes(jpeg(scene(200, 200, seed=number)))
        call_command("send_to_inlet", str(card.parent), inlet="Card", verbosity=0)
        call_command("send_to_inlet", str(card.parent), inlet="Card", verbosity=0)
        self.assertEqual(self.look(), {"made": 3})
        with self.assertRaisesMessage(CommandError, "Known: Card"):
            call_command("send_to_inlet", str(card), inlet="Other")

    def test_what_the_file_system_tells_is_looked_at_at_once(self) -> None:
        self.inlet()
        stop = threading.Event()
        listener = threading.Thread(target=listening.listen, args=(stop,))
        listener.start()
        self.addCleanup(listener.join)
        self.addCleanup(stop.set)

        def asked() -> bool:
            with connection.cursor() as cursor:
                cursor.execute("SELECT count(*) FROM procrastinate_jobs WHERE task_name = 'inlets.look'")
                return bool(cursor.fetchone()[0])

        for number in range(40):
            # It may take a moment until it listens.
            self.put(f"{number}.jpg")
            time.sleep(0.5)
            if asked():
                break
        self.assertTrue(asked())

    def test_pausing_and_others(self) -> None:
        inlet = self.inlet()
        self.send("post", f"inlets/{inlet['id']}/paused", {"paused": True})
        self.put("1.jpg")
        self.assertEqual(self.look(2), {})
        self.send("post", f"inlets/{inlet['id']}/paused", {"paused": False})
        self.assertEqual(self.look(), {"made": 1})
        studio = Studio.objects.create(name="Elsewhere")
        Inlet.objects.update(studio=studio)
        for path in ("paused", "token", "choice", "again"):
            self.send("post", f"inlets/{inlet['id']}/{path}", {"paused": True, "recipes": []}, 404)
        self.get(f"inlets/{inlet['id']}/arrivals", 404)
        self.assertEqual(self.get("inlets"), [])
