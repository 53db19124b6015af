"""Deliveries: every store, every fault, never twice, never lost, and no secret that is told."""

from __future__ import annotations

import hashlib
import json
import os
import random
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import Any
from unittest import mock

from django.db import connection
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from server.deliveries import flows, sending
from server.deliveries.models import Account, Delivery
from server.deliveries.senders import KINDS
from server.outlets import flows as outlets
from server.project.conf import PROJECT
from server.queue.deferring import DELIVER
from server.runs.models import Rendition, Run
from server.studios.models import Studio
from server.tests import stores
from server.tests.cases import StudioCase
from stand_ins.platform import ACCOUNT, SECRET, Platform
from tray_core.outlets import read_outlet_file
from tray_core.outlets.words import shortened
from tray_core.tests.samples import DEMO, jpeg, scene

State = Delivery.State


class Deliveries(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        for number in range(3):
            (self.folder / f"{number}.jpg").write_bytes(jpeg(scene(900, 900, seed=number + 1)))
        recipe = self.recipe("Journal", size={"by": "long-edge", "pixels": 500}, frame={"way": "crop", "shape": "1:1"})
        self.tray_ = self.tray(recipe)
        self.work()
        self.send("post", f"trays/{self.tray_.pk}/runs", {})
        self.work()
        self.run_ = Run.objects.get()
        sheet = read_outlet_file(DEMO / "outlets" / "1-gridwick.json")
        self.outlet = outlets.create(self.studio, sheet.to_json())

    def account(self, kind: str, settings: dict[str, Any], secret: str = "", status: int = 200, **more: Any) -> Any:
        body = {"name": f"To {kind}", "kind": kind, "settings": settings, "secret": secret} | more
        return self.send("post", "accounts", body, status)

    @contextmanager
    def platform(self) -> Iterator[tuple[Any, Platform]]:
        with stores.platform(self.folder / "platform") as (address, known):
            more = {"outlet": self.outlet.pk, "use": "Post"}
            yield self.account("platform", {"address": address, "user": ACCOUNT}, SECRET, **more), known

    def deliver(self, account: Any) -> int:
        return int(self.send("post", f"accounts/{account['id']}/send", {"run": self.run_.pk})["count"])

    def go(self, rounds: int = 12) -> dict[str, int]:
        """Send all that waits, due or not, as often as it takes."""
        for _ in range(rounds):
            Delivery.objects.update(due=None)
            for number in Delivery.objects.filter(state__in=(State.WAITING, State.SENDING)).values_list(
                "pk", flat=True
            ):
                sending.send(number)
        states = list(Delivery.objects.values_list("state", flat=True))
        return {state: states.count(state) for state in set(states)}

    def test_files_are_published_once_with_their_words(self) -> None:
        photo = self.run_.renditions.first().photo
        photo.typed = {"title": "The lark", "alt": "A brass lark. " * 20, "description": "Wound daily."}
        photo.save()
        with self.platform() as (account, known):
            self.assertEqual(self.deliver(account), 3)
            self.assertEqual(self.go(), {"sent": 3})
            self.assertEqual(self.deliver(account), 0)
            self.assertEqual((self.go(), len(known.posts())), ({"sent": 3}, 3))
            told = self.get(f"accounts/{account['id']}/deliveries")["deliveries"]
            receipts = {row.receipt["sha256"] for row in self.made(self.run_)}
            self.assertEqual({each["remote_sha256"] for each in told}, receipts)
            self.assertTrue(all("/Gridwick/Post#" in each["remote"] for each in told))
            words = next(post["words"] for post in known.posts() if post["words"])
            # This outlet takes no titles, and alt texts of 100 characters.
            self.assertEqual((set(words), words["alt"][-1]), ({"alt", "description"}, "…"))
            self.assertLessEqual(len(words["alt"]), 100)
            self.assertIn("was shortened to 100", str([each["notes"] for each in told]))
        self.assertEqual(self.get(f"runs/{self.run_.pk}/deliveries")[0]["counts"], {"sent": 3})

    def test_every_fault_ends_well(self) -> None:
        with self.platform() as (account, known):
            self.deliver(account)
            known.faults[:] = ["429", "500", "cut", "expired", "slow", "429", "cut", "500"]
            sending.send(Delivery.objects.first().pk)
            waits = Delivery.objects.first()
            self.assertEqual((waits.state, waits.tries), (State.WAITING, 1))
            self.assertGreater(waits.due, timezone.now())
            self.assertIn("tried again", waits.error)
            self.assertEqual((self.go(), len(known.posts()), known.faults), ({"sent": 3}, 3, []))

    def test_what_will_not_be_taken_is_told_and_sent_again_later(self) -> None:
        with self.platform() as (account, known):
            wrong = self.send("put", f"accounts/{account['id']}", {**account, "secret": "iron"})
            self.assertIn(
                "wrong-secret" if False else "not right", self.send("post", f"accounts/{account['id']}/try")["problem"]
            )
            self.deliver(account)
            self.assertEqual(self.go(1), {"failed": 3})
            self.send("put", f"accounts/{account['id']}", {**wrong, "secret": SECRET})
            known.faults[:] = ["full"]
            self.assertEqual(self.send("post", f"accounts/{account['id']}/again", {})["count"], 3)
            self.assertEqual(self.go(1), {"failed": 1, "sent": 2})
            self.assertIn("a full store", Delivery.objects.get(state=State.FAILED).error)
            one = Delivery.objects.get(state=State.FAILED).pk
            self.send("post", f"accounts/{account['id']}/again", {"deliveries": [one]})
            self.assertEqual((self.go(), len(known.posts())), ({"sent": 3}, 3))
            # A rule of the platform's own is told in its words.
            small = Rendition.objects.first()
            with mock.patch.dict(
                known.outlets, {"Gridwick": known.outlets["Museum shop"].model_copy(update={"name": "Gridwick"})}
            ):
                Delivery.objects.filter(rendition=small).delete()
                self.deliver(account)
                self.assertEqual(self.go(1), {"failed": 1, "sent": 2})
            self.assertIn("There is no 'Post'", Delivery.objects.get(state=State.FAILED).error)

    def test_it_gives_up_after_many_tries(self) -> None:
        account = self.account("platform", {"address": "http://127.0.0.1:9", "user": "x"}, "y")
        self.deliver(account)
        self.assertEqual(self.go(sending.MOST_TRIES), {"failed": 3})
        self.assertIn("tried 8 times", Delivery.objects.first().error)
        self.send("post", f"accounts/{account['id']}/paused", {"paused": True})
        self.send("post", f"accounts/{account['id']}/again", {})
        self.assertEqual(self.go(2), {"waiting": 3})
        self.assertEqual(self.send("post", f"accounts/{account['id']}/stop")["count"], 3)
        self.assertEqual(self.go(1), {"stopped": 3})

    def test_a_delivery_whose_job_was_lost_is_given_out_again(self) -> None:
        account = self.account("platform", {"address": "http://127.0.0.1:9", "user": "x"}, "y")
        self.deliver(account)
        lost, young, later = Delivery.objects.order_by("pk")
        long_ago = timezone.now() - timedelta(minutes=1)
        Delivery.objects.exclude(pk=young.pk).update(asked=long_ago)
        Delivery.objects.filter(pk=later.pk).update(due=timezone.now() + timedelta(minutes=1))

        def given() -> list[int]:
            sending.give_out_again()
            jobs = ProcrastinateJob.objects.filter(task_name=DELIVER).order_by("id")
            return [job.args["delivery_id"] for job in jobs]

        self.assertEqual(given(), [lost.pk, young.pk, later.pk])
        with connection.cursor() as cursor:
            cursor.execute("TRUNCATE procrastinate_jobs CASCADE")
        self.send("post", f"accounts/{account['id']}/paused", {"paused": True})
        self.assertEqual(given(), [])
        Account.objects.update(paused=False)
        self.assertEqual(given(), [lost.pk])
        self.assertEqual(given(), [lost.pk])

    def test_a_file_that_is_gone_is_not_sent(self) -> None:
        with self.platform() as (account, known):
            self.deliver(account)
            Path(Rendition.objects.first().path).unlink()
            self.assertEqual((self.go(), len(known.posts())), ({"failed": 1, "sent": 2}, 2))
            self.assertIn("Make it again", Delivery.objects.get(state=State.FAILED).error)

    def test_recipes_send_what_they_made(self) -> None:
        with self.platform() as (account, known):
            place = {"to": "output", "subfolder": "b", "taken": "new-name"}
            step = {"do": "deliver", "to": account["name"]}
            sends = self.recipe("Sent", place={**place, "afterwards": [step]}, size={"by": "width", "pixels": 400})
            lost = self.recipe("Lost", place={**place, "afterwards": [{**step, "to": "Nobody"}]})
            self.assertIn(f"sent to {account['name']}", str(self.get(f"recipes/{sends.pk}")["sentence"]))
            self.send("put", f"trays/{self.tray_.pk}/recipes", {"recipes": [sends.pk, lost.pk]}, 204)
            self.send("post", f"trays/{self.tray_.pk}/runs", {})
            self.work()
            self.wait_for(lambda: Delivery.objects.count() == 3)
            self.assertEqual((self.go(), len(known.posts())), ({"sent": 3}, 3))
            steps = {each["to"]: each["error"] for each in Run.objects.latest("id").afterwards}
            self.assertEqual(steps[account["name"]], "")
            self.assertIn("an account named Nobody", steps["Nobody"])

    def test_folders_and_what_lies_there_already(self) -> None:
        self.account("folder", {"path": "/etc"}, status=422)
        self.account("folder", {"path": str(self.folder)}, status=422)
        target = self.output / "handed"
        account = self.account("folder", {"path": str(target)})
        self.assertIn("nothing there", self.send("post", f"accounts/{account['id']}/try")["problem"])
        target.mkdir()
        self.deliver(account)
        (target / "Journal").mkdir()
        (target / "Journal" / "0.jpg").write_bytes(b"somebody else's")
        self.assertEqual(self.go(), {"sent": 3})
        there = sorted(str(path.relative_to(target)) for path in target.rglob("*") if path.is_file())
        self.assertEqual(there, ["Journal/0-2.jpg", "Journal/0.jpg", "Journal/1.jpg", "Journal/2.jpg"])
        # What an earlier try left, and nobody remembers, is found.
        Delivery.objects.update(state=State.WAITING)
        self.assertEqual((self.go(), len(list((target / "Journal").iterdir()))), ({"sent": 3}, 4))

    def whole(self, files: dict[str, bytes]) -> None:
        """What arrived is what was made, and nothing else."""
        made = {row.receipt["sha256"] for row in self.made(self.run_)}
        self.assertEqual({hashlib.sha256(data).hexdigest() for data in files.values()}, made)
        self.assertEqual(sorted(files), ["Journal/0.jpg", "Journal/1.jpg", "Journal/2.jpg"])

    def files(self, folder: Path) -> dict[str, bytes]:
        return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}

    def test_webdav(self) -> None:
        there = self.folder / "dav"
        with stores.webdav(there) as address:
            settings = {"address": address, "user": "ada"}
            wrong = self.account("webdav", settings, "iron", name="Wrong")
            self.assertIn("lets us in", self.send("post", f"accounts/{wrong['id']}/try")["problem"])
            account = self.account("webdav", settings, "brass")
            self.assertEqual(self.send("post", f"accounts/{account['id']}/try")["problem"], "")
            for _ in range(2):
                self.deliver(account)
                self.assertEqual(self.go(3), {"sent": 3})
                self.whole(self.files(there))
                Delivery.objects.update(state=State.WAITING)

    def test_s3(self) -> None:
        with stores.bucket() as (address, objects, says):
            settings = {"address": address, "bucket": "museum", "user": "ada"}
            account = self.account("s3", settings, "brass")
            self.assertEqual(self.send("post", f"accounts/{account['id']}/try")["problem"], "")
            says[:] = ["SlowDown"]
            for _ in range(2):
                self.deliver(account)
                self.assertEqual(self.go(3), {"sent": 3})
                self.whole({name.removeprefix("museum/"): data for name, (data, _) in objects.items()})
                Delivery.objects.update(state=State.WAITING)
            objects.clear()
            says[:] = ["clock"]
            self.assertEqual(self.go(1), {"failed": 1, "sent": 2})
            self.assertIn("set this machine's clock", Delivery.objects.get(state=State.FAILED).error)

    def test_sftp(self) -> None:
        there = self.folder / "sftp"
        with stores.sftp(there) as (port, key):
            settings = {"host": "127.0.0.1", "port": str(port), "user": "ada", "path": "/"}
            unknown = self.account("sftp", settings, "brass", name="Unknown")
            # A machine that nobody named is not trusted; its key is told, to be compared.
            self.assertIn(key, self.send("post", f"accounts/{unknown['id']}/try")["problem"])
            account = self.account("sftp", {**settings, "key": key}, "brass")
            self.assertEqual(self.send("post", f"accounts/{account['id']}/try")["problem"], "")
            for _ in range(2):
                self.deliver(account)
                self.assertEqual(self.go(3), {"sent": 3})
                self.whole(self.files(there))
                Delivery.objects.update(state=State.WAITING)

    def test_secrets_are_sealed_and_never_told(self) -> None:
        account = self.account("webdav", {"address": "http://127.0.0.1:9", "user": "ada"}, "brass-and-iron")
        kept = Account.objects.get()
        self.assertEqual(kept.core().secret, "brass-and-iron")
        with connection.cursor() as cursor:
            cursor.execute("SELECT row_to_json(a)::text FROM deliveries_account a")
            self.assertNotIn("brass-and-iron", cursor.fetchone()[0])
        self.deliver(account)
        self.go(1)
        told = [self.get("accounts"), self.get(f"accounts/{account['id']}/deliveries"), repr(kept.core())]
        self.assertNotIn("brass-and-iron", json.dumps(told))
        self.assertTrue(account["secret"])
        changed = self.send("put", f"accounts/{account['id']}", {**account, "secret": None, "name": "Other"})
        self.assertEqual(Account.objects.get().core().secret, "brass-and-iron")
        self.send("put", f"accounts/{account['id']}", {**changed, "secret": None, "version": 1}, 409)
        with self.settings(SECRET_KEY="another" * 8):
            self.assertIn("another key", flows.try_out(Account.objects.get()))

    def test_others_see_none_of_it(self) -> None:
        studio = Studio.objects.create(name="Elsewhere")
        theirs = Account.objects.create(studio=studio, name="x", kind="folder", settings={}).pk
        mine = self.account("webdav", {"address": "http://127.0.0.1:9"})
        for path in ("try", "stop", "again", "send"):
            self.send("post", f"accounts/{theirs}/{path}", {}, 404)
        self.get(f"accounts/{theirs}/deliveries", 404)
        run = Run.objects.create(studio=studio, tray_name="x")
        self.send("post", f"accounts/{mine['id']}/send", {"run": run.pk}, 404)
        self.assertEqual(self.send("post", f"accounts/{mine['id']}/send", {"renditions": [999]})["count"], 0)

    def test_settings_are_checked(self) -> None:
        for kind, settings, field in (
            ("webdav", {"address": "ftp://x"}, "address"),
            ("s3", {"address": "https://x"}, "bucket"),
            ("sftp", {"host": "x", "port": "70000"}, "port"),
            ("post", {}, "kind"),
        ):
            with self.subTest(kind=kind):
                self.assertEqual(self.account(kind, settings, status=422)["fields"][0]["field"], field)
        self.assertEqual(set(KINDS), {"platform", "folder", "webdav", "s3", "sftp"})
        for most in range(2, 60):
            self.assertLessEqual(len(shortened("A brass lark that sings at noon, wound daily.", most)), most)

    def test_fifty_kills_and_never_twice(self) -> None:
        with self.platform() as (account, known):
            for number in range(12):
                body = {**account, "name": f"Copy {number}", "secret": SECRET, "version": None}
                self.deliver(self.send("post", "accounts", body))
            helper = subprocess.Popen(
                [sys.executable, "-c", TO_KILL],
                cwd=PROJECT,
                env={**os.environ, "UPPER_TRAY_DATABASE": connection.settings_dict["NAME"]},
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                text=True,
            )
            assert helper.stdin is not None and helper.stdout is not None
            self.addCleanup(helper.wait)
            self.addCleanup(helper.kill)
            chance, kills, tries = random.Random(7), 0, 0
            while kills < 50 and tries < 400:
                tries += 1
                print("send", file=helper.stdin, flush=True)
                child = int(helper.stdout.readline())
                self.wait_for(lambda: Delivery.objects.filter(state=State.SENDING).exists())
                time.sleep(chance.uniform(0, 0.08))
                os.kill(child, signal.SIGKILL)
                kills += 1
                if Delivery.objects.exclude(state=State.SENT).count() < 3:
                    break
            helper.stdin.close()
            helper.stdout.close()
            self.assertEqual(kills, 50)
            half_sent = len(list((known.folder / "uploads").iterdir()))
            self.assertEqual((self.go(3), len(known.posts())), ({"sent": 36}, 36))
            self.assertEqual(list((known.folder / "uploads").iterdir()), [], f"{half_sent} were half sent")
            self.assertGreater(max(Delivery.objects.values_list("tries", flat=True)), 1)


TO_KILL = """
import os, signal, sys
import django
os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.project.settings")
django.setup()
from django.db import connections
from server.deliveries import sending
from server.deliveries.models import Delivery
from server.deliveries.senders import platform
platform.CHUNK = 1500
signal.signal(signal.SIGCHLD, signal.SIG_IGN)
connections.close_all()
for line in sys.stdin:
    child = os.fork()
    if child == 0:
        for number in Delivery.objects.filter(state__in=("sending", "waiting")).values_list("pk", flat=True):
            sending.send(number)
        os._exit(0)
    print(child, flush=True)
"""
"""Sends all that waits in a process of its own, each time that it is told to, and says which process that is."""
