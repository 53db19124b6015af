"""Links: what guests reach and what they do not, how often strangers may try, what comes back to the studio."""

from __future__ import annotations

import asyncio
import io
import zipfile
from collections.abc import AsyncIterator
from datetime import timedelta
from typing import Any
from unittest import mock

from django.test import Client
from django.utils import timezone
from PIL import Image

from server.guests import outside
from server.guests.models import Guest, Link, Verdict
from server.runs.models import Rendition, Run
from server.studios.models import Studio
from server.tests.cases import StudioCase
from tray_core.tests.samples import jpeg, scene


async def whole(pieces: AsyncIterator[bytes]) -> bytes:
    return b"".join([piece async for piece in pieces])


class Guests(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        outside.TRIES.forget()
        outside.PASSPHRASES.forget()
        for number in range(3):
            (self.folder / f"{number}.jpg").write_bytes(jpeg(scene(900, 600, seed=number + 1)))
        self.tray_ = self.tray(self.recipe("Journal", size={"by": "long-edge", "pixels": 800}))
        self.work()
        self.send("post", f"trays/{self.tray_.pk}/runs", {})
        self.work()
        self.run_ = Run.objects.get()
        self.stranger = Client()

    def link(self, **more: Any) -> Any:
        return self.send("post", "links", {"kind": "pickup", "name": "For the press", "run": self.run_.pk} | more)

    def ask(self, client: Client, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        answer = getattr(client, method)(f"/guest/{path}", body, content_type="application/json")
        self.assertEqual(answer.status_code, status, "" if answer.streaming else answer.content[:300])
        if answer.streaming:
            return asyncio.run(whole(answer.streaming_content))
        return answer.json() if answer.content else None

    def open(self, link: Any, client: Client | None = None, status: int = 200, **more: str) -> Any:
        secret = link["address"].partition("#")[2]
        return self.ask(client or self.stranger, "post", f"{link['id']}/open", {"secret": secret, **more}, status)

    def test_files_are_picked_up_without_signing_in(self) -> None:
        link = self.link()
        self.assertRegex(link["address"], r"^/pick/\d+#[\w-]{22}$")
        room = self.open(link)
        self.assertEqual((room["name"], room["studio"], len(room["things"])), ("For the press", "Quillmarsh", 3))
        thing = room["things"][0]
        file = self.ask(self.stranger, "get", f"{link['id']}/things/{thing['id']}/file")
        row = Rendition.objects.get(pk=Rendition.objects.order_by("n").first().pk)
        with open(row.path, "rb") as made:
            self.assertEqual(file, made.read())
        archive = self.ask(self.stranger, "get", f"{link['id']}/all")
        self.assertEqual(len(zipfile.ZipFile(io.BytesIO(archive)).namelist()), 3)
        told = self.get(f"links/{link['id']}")
        self.assertEqual((told["opened"], told["saved"], told["files"]), (1, 4, 3))
        code = self.client.get(f"/api/links/{link['id']}/code")
        self.assertTrue(code.content.startswith(b"<svg") and code["Content-Type"] == "image/svg+xml")
        # Coming back needs the cookie alone, and the secret is in no address.
        self.assertEqual(len(self.ask(self.stranger, "get", str(link["id"]))["things"]), 3)

    def test_nothing_else_is_reached_from_a_link(self) -> None:
        link, other = self.link(), self.link(name="For others")
        item = self.open(other, Client())["things"][0]["id"]
        thing = self.open(link)["things"][0]["id"]
        for path in (
            f"{other['id']}",
            f"{other['id']}/things/{item}/file",
            f"{other['id']}/things/{thing}/file",
            f"{other['id']}/all",
        ):
            self.ask(self.stranger, "get", path, status=401)
        self.ask(self.stranger, "get", f"{link['id']}/things/{item}/file", status=404)
        self.ask(self.stranger, "put", f"{link['id']}/things/{thing}/says", {"says": "yes"}, 404)
        row = Rendition.objects.first()
        assert row is not None
        addresses = [
            f"/api/{each}" for each in ("me", "links", "runs", "recipes", "outlets", f"renditions/{row.pk}/file")
        ]
        for address in (*addresses, "/events", "/", f"/api/runs/{self.run_.pk}/zip"):
            self.assertIn(self.stranger.get(address).status_code, (302, 401, 403), address)
        # A cookie of one link, moved to another's name, opens nothing.
        stolen = self.stranger.cookies[f"guest-{link['id']}"].value
        thief = Client()
        thief.cookies[f"guest-{other['id']}"] = stolen
        self.ask(thief, "get", str(other["id"]), status=401)
        studio = Studio.objects.create(name="Elsewhere")
        more = {"kind": "pickup", "name": "x", "digest": "x", "sealed": "x"}
        theirs = Link.objects.create(studio=studio, expires=timezone.now(), **more).pk
        self.get(f"links/{theirs}", 404)
        self.get(f"links/{theirs}/code", 404)
        self.send("put", f"links/{theirs}", {"withdrawn": True}, 404)

    def test_links_end(self) -> None:
        link = self.link(days=1)
        self.open(link)
        self.send("put", f"links/{link['id']}", {"withdrawn": True})
        for status in (self.ask(self.stranger, "get", str(link["id"]), status=410), self.open(link, status=410)):
            self.assertIn("new one", status["detail"])
        self.send("put", f"links/{link['id']}", {"withdrawn": False})
        self.ask(self.stranger, "get", str(link["id"]))
        Link.objects.update(expires=timezone.now() - timedelta(seconds=1))
        self.ask(self.stranger, "get", str(link["id"]), status=410)
        # Of what never was nothing else is said.
        self.assertEqual(
            self.ask(self.stranger, "get", "999999", status=410),
            self.ask(self.stranger, "get", str(link["id"]), status=410),
        )

    def test_strangers_may_try_so_often(self) -> None:
        link = self.link(kind="proof", passphrase="brass escapement")
        self.open(link, status=401, name="Odile")
        for _ in range(10):
            self.open(link, status=403, name="Odile", passphrase="iron")
        self.assertIn("Wait 15 min", self.open(link, status=429, name="Odile", passphrase="brass escapement")["detail"])
        outside.TRIES.forget()
        for _ in range(30):
            self.ask(self.stranger, "post", "77/open", {"secret": "guess"}, 410)
        self.ask(self.stranger, "post", "77/open", {"secret": "guess"}, 429)

    def test_the_page_for_guests_is_strict(self) -> None:
        for address in ("/pick/1", "/proof/99"):
            page = self.stranger.get(address)
            self.assertEqual((page.status_code, page["Referrer-Policy"]), (200, "no-referrer"))
            policy = page["Content-Security-Policy"]
            self.assertIn("default-src 'none'", policy)
            self.assertNotIn("unsafe", policy)

    def test_what_clients_choose_comes_back(self) -> None:
        link = self.link(kind="proof", wanted=2, stamp="QUILLMARSH")
        odile, bram = Client(), Client()
        room = self.open(link, odile, name="Odile")
        self.open(link, bram, name="Bram")
        one, two, three = (thing["id"] for thing in room["things"])
        at = f"{link['id']}/things"
        first = ((odile, one, "yes"), (odile, two, "no"), (odile, two, "yes"))
        for client, item, says in (*first, (bram, two, "yes"), (bram, three, "maybe")):
            self.ask(client, "put", f"{at}/{item}/says", {"says": says}, 204)
        self.ask(odile, "put", f"{at}/{one}/says", {"says": None}, 204)
        made = self.ask(odile, "post", f"{at}/{two}/comments", {"text": " Cut a little less. ", "x": 0.25, "y": 0.5})
        self.ask(odile, "post", f"{at}/{two}/comments", {"text": "  "}, 422)
        self.ask(bram, "delete", f"{link['id']}/comments/{made['id']}", status=404)
        # Clients are apart.
        seen = self.ask(bram, "get", str(link["id"]))
        self.assertEqual(
            [(thing["says"], thing["comments"]) for thing in seen["things"]], [(None, []), ("yes", []), ("maybe", [])]
        )
        self.ask(bram, "put", f"{link['id']}/done", {"done": True}, 204)
        told = self.get(f"links/{link['id']}")
        self.assertEqual(
            [(each["name"], each["yes"], each["done"]) for each in told["people"]],
            [("Odile", 1, False), ("Bram", 1, True)],
        )
        self.assertEqual(told["judged"][1]["said"][-1]["text"], "Cut a little less.")
        shown = self.get(f"trays/{self.tray_.pk}/board?picks={link['id']}:yes")
        self.assertEqual(len(shown["photos"]), 1)
        self.assertEqual(self.get(f"trays/{self.tray_.pk}/board?picks=x:yes")["photos"], [])
        # Whoever comes back under their name is the same guest; a change of mind is not done any more.
        self.open(link, bram, name="bram")
        self.ask(bram, "put", f"{at}/{one}/says", {"says": "no"}, 204)
        self.assertFalse(Guest.objects.get(name="Bram").done)
        self.assertEqual((Guest.objects.count(), Verdict.objects.count()), (2, 4))

    def test_proofs_are_small_and_stamped(self) -> None:
        pickup, proof = self.link(), self.link(kind="proof")
        thing = self.open(proof, name="Odile")["things"][0]
        self.assertEqual(thing["bytes"], 0)
        self.ask(self.stranger, "get", f"{proof['id']}/things/{thing['id']}/file", status=404)
        self.ask(self.stranger, "get", f"{proof['id']}/all", status=404)
        plain = self.open(pickup)["things"][0]
        pictures = []
        for link, item in ((proof, thing), (pickup, plain)):
            answer = self.ask(self.stranger, "get", f"{link['id']}/things/{item['id']}/picture?small=true")
            with Image.open(io.BytesIO(answer)) as image:
                self.assertEqual(max(image.size), 480)
                pictures.append(image.convert("RGB").tobytes())
        self.assertNotEqual(*pictures)

    def test_a_file_that_is_gone_is_told(self) -> None:
        link = self.link()
        thing = self.open(link)["things"][0]["id"]
        row = Rendition.objects.order_by("n").first()
        assert row is not None
        with mock.patch("server.runs.files.look", return_value="gone"):
            self.ask(self.stranger, "get", f"{link['id']}/things/{thing}/file", status=410)
        self.send("post", "links", {"kind": "pickup", "renditions": [999999]}, 422)
