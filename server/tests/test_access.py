"""Who may see what: other studios' objects answer 404, strangers 401, the demo's address signs in once."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from unittest import mock, skipUnless

from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import CommandError, call_command
from django.test import Client, TestCase

from server.board import starting
from server.project.conf import PROJECT, Conf, conf, read_conf
from server.recipes.models import Recipe
from server.studios.checks import check_demo
from server.studios.invitation import invite
from server.studios.models import Member, Studio
from server.tests.cases import StudioCase
from server.trays.models import Tray
from tray_core.readers.sandbox import landlock_version
from tray_core.tests.samples import PHOTOS

FRAMING = {"name": "left", "x": 0, "y": 0, "width": 0.5, "height": 1}


class Apart(StudioCase):
    def test_another_studio_finds_nothing(self) -> None:
        self.copy("mixed/tiny-for-enlarging_640.jpg")
        recipe = self.recipe()
        tray = self.tray(recipe)
        self.work()
        run = starting.start_run(tray)
        self.work()
        rendition = run.renditions.get()
        photo, version = rendition.photo_id, rendition.version_id
        gets = (
            f"trays/{tray.pk}/board",
            f"trays/{tray.pk}/overview",
            f"trays/{tray.pk}/names/{photo}/{recipe.pk}",
            f"trays/{tray.pk}/bench/{photo}/{recipe.pk}",
            f"roots/{self.root.pk}/folders",
            f"recipes/{recipe.pk}",
            f"recipes/{recipe.pk}/versions",
            f"runs/{run.pk}",
            f"runs/{run.pk}/renditions",
            f"runs/{run.pk}/zip",
            f"renditions/{rendition.pk}/file",
            f"pictures/photos/{photo}",
            f"pictures/cells/{photo}/{version}",
            f"pictures/drafts/{photo}?recipe=" + json.dumps(rendition.version.content),
        )
        sends = (
            ("post", f"trays/{tray.pk}/runs", {}),
            ("post", f"runs/{run.pk}/stop", None),
            ("put", f"recipes/{recipe.pk}", {"content": {}, "version": 1}),
            ("post", f"recipes/{recipe.pk}/archived", {"archived": True}),
            ("post", f"trays/{tray.pk}/include", {"cells": [], "included": True}),
            ("post", f"trays/{tray.pk}/rows", {"photos": [photo]}),
            ("post", f"trays/{tray.pk}/weigh", {"cells": []}),
            ("post", f"trays/{tray.pk}/bench/{photo}/{recipe.pk}", FRAMING),
            ("put", f"trays/{tray.pk}/framings", {"photos": {photo: [FRAMING]}}),
            ("post", f"trays/{tray.pk}/anchor", {"cells": [[photo, recipe.pk]], "anchor": "top"}),
            ("post", f"trays/{tray.pk}/carry", {"source": photo, "framing": FRAMING, "photos": []}),
            ("post", f"trays/{tray.pk}/look-again", None),
            ("post", f"trays/{tray.pk}/take-out", {"photos": [photo]}),
            ("post", f"trays/{tray.pk}/put-back", {"places": [{"photo": photo, "position": 0}]}),
            ("put", f"trays/{tray.pk}", {"name": "x"}),
            ("put", f"trays/{tray.pk}/recipes", {"recipes": []}),
            ("post", f"trays/{tray.pk}/folders", {"root": self.root.pk}),
            ("post", "trays", {"name": "x", "folders": [{"root": self.root.pk}]}),
            ("post", "drafts", {"content": rendition.version.content, "photos": [photo]}),
        )
        for path in gets:
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 200, path)
        other = get_user_model().objects.create_user("brin", password="brass-escapement")
        Member.objects.create(user=other, studio=Studio.objects.create(name="Elsewhere"))
        self.client.force_login(other)
        for path in gets:
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 404, path)
        for method, path, body in sends:
            self.send(method, path, body, status=404)
        for path in ("trays", "recipes", "runs", "roots"):
            self.assertEqual(self.get(path), [])
        self.client.logout()
        for path in (*gets, "me", "trays"):
            self.assertEqual(self.client.get(f"/api/{path}").status_code, 401, path)

    def test_foreign_sites_cannot_send(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.user)
        answer = strict.post("/api/trays", {"name": "x"}, content_type="application/json")
        self.assertEqual(answer.status_code, 403)

    def test_person_without_a_studio(self) -> None:
        self.client.force_login(get_user_model().objects.create_user("cy", password="brass-escapement"))
        self.assertIn("belong to no studio", self.get("trays", status=403)["detail"])

    def test_signing_in(self) -> None:
        self.client.logout()
        self.assertRedirects(self.client.get("/runs/3"), "/sign-in?next=/runs/3")
        wrong = self.client.post("/sign-in", {"username": "ada", "password": "x"})
        self.assertContains(wrong, "Wrong name or password")
        right = self.client.post("/sign-in?next=/runs/3", {"username": "ada", "password": "brass-escapement"})
        self.assertRedirects(right, "/runs/3", fetch_redirect_response=False)


class Demo(TestCase):
    def test_loading_twice_changes_nothing_and_its_address_signs_in_once(self) -> None:
        call_command("load_demo", verbosity=0, stdout=mock.Mock())
        call_command("load_demo", verbosity=0, stdout=mock.Mock())
        self.assertEqual(Studio.objects.count(), 1)
        invite()
        address = f"/sign-in/{(conf.var / 'invitation').read_text()}"
        self.assertEqual(Client().get(address).status_code, 404)
        with mock.patch("server.studios.invitation.conf", Conf(var=conf.var, demo=True)):
            here, late = Client(REMOTE_ADDR="127.0.0.1"), Client()
            self.assertEqual(here.get("/api/trays").status_code, 401)
            self.assertContains(late.get("/sign-in/guessed"), "signs in once", status_code=403)
            self.assertRedirects(here.get(address), "/", fetch_redirect_response=False)
            trays = here.get("/api/trays").json()
            self.assertEqual([tray["name"] for tray in trays], ["Autumn rehang", "Shop stock", "Mixed sources"])
            self.assertEqual([tray["photos"] for tray in trays], [13, 5, 18])
            self.assertEqual(len(here.get("/api/recipes").json()), 8)
            self.assertRedirects(here.get(address), "/", fetch_redirect_response=False)
            self.assertContains(late.get(address), "was used already", status_code=403)
            self.assertEqual(late.get("/api/trays").status_code, 401)
        known = {"username": "demo", "password": (conf.var / "demo-password").read_text()}
        self.assertRedirects(late.post("/sign-in", known), "/", fetch_redirect_response=False)

    def test_demo_under_other_names_is_a_contradiction(self) -> None:
        with mock.patch("server.studios.checks.conf", Conf(demo=True, hosts="localhost,photos.example")):
            self.assertEqual([error.id for error in check_demo()], ["upper_tray.E001"])

    def test_settings_name_what_cannot_be_used(self) -> None:
        with mock.patch.dict(os.environ, UPPER_TRAY_PHOTO_PIXELS="5"):
            self.assertEqual(read_conf().photo_pixels, 5)
        wrong = mock.patch.dict(os.environ, UPPER_TRAY_PHOTO_PIXELS="many")
        with wrong, self.assertRaisesRegex(ValueError, "UPPER_TRAY_PHOTO_PIXELS: expected .* integer.*, found 'many'"):
            read_conf()


class SigningIn(StudioCase):
    def enter(self, name: str, password: str, address: str = "192.0.2.7") -> int:
        answer = Client(REMOTE_ADDR=address).post("/sign-in", {"username": name, "password": password})
        return answer.status_code

    def test_guessing_is_slowed_down_by_name_and_address(self) -> None:
        get_user_model().objects.create_user("ben", password="brass-pendulum")
        said = [self.enter("ada", f"guess-{n}") for n in range(12)]
        self.assertEqual((said[0], said[-1]), (200, 429))
        self.assertEqual(self.enter("ada", "brass-escapement"), 429, "the right one tells no more than a wrong one")
        self.assertEqual(self.enter("ada", "brass-escapement", "192.0.2.8"), 302)
        self.assertEqual(self.enter("ben", "brass-pendulum"), 302)

    def test_a_password_like_the_name_is_not_taken(self) -> None:
        for password in ("clockkeeper", "12345678901", "short", "password12"):
            with (
                self.subTest(password=password),
                mock.patch.dict(os.environ, UPPER_TRAY_PASSWORD=password),
                self.assertRaises(CommandError),
            ):
                call_command("add_person", "Quillmarsh", "clockkeeper")

    def test_signing_out_asks_first_and_ends_the_session_everywhere(self) -> None:
        copy = Client()
        copy.cookies = self.client.cookies
        self.assertContains(self.client.get("/sign-out"), "Sign out of this browser?")
        self.get("trays")
        self.assertEqual(self.client.post("/sign-out").status_code, 302)
        self.assertEqual(copy.get("/api/trays").status_code, 401)


class Deployed(TestCase):
    @skipUnless(landlock_version(), "this kernel has no Landlock, which is said")
    def test_nothing_is_said_against_production_settings(self) -> None:
        found = subprocess.run(
            [sys.executable, "-W", "error", "server/manage.py", "check", "--deploy", "--fail-level", "WARNING"],
            cwd=PROJECT,
            env={**os.environ, "UPPER_TRAY_HTTPS": "1", "UPPER_TRAY_PROXY": "1", "UPPER_TRAY_HOSTS": "photos.example"},
            capture_output=True,
            text=True,
            check=False,
        )
        self.assertEqual(found.returncode, 0, found.stderr)

    def test_pages_may_load_from_here_alone(self) -> None:
        answer = self.client.get("/sign-in")
        self.assertIn("default-src 'none'", answer["Content-Security-Policy"])
        self.assertIn("camera=()", answer["Permissions-Policy"])

    def test_how_it_is_built_and_described_is_not_served(self) -> None:
        for path in ("/api/openapi.json", "/api/docs", "/static/.stamp", "/static/.built"):
            with self.subTest(path):
                self.assertEqual(self.client.get(path).status_code, 404)


class Odd(StudioCase):
    """Requests that no page sends: refused in words, and nothing of them is left."""

    def test_what_cannot_be_kept_is_refused(self) -> None:
        self.copy("shop-stock/QM4_0117.jpg")
        recipe = self.recipe()
        tray = self.tray(recipe)
        photo = tray.places.get().photo_id
        content = self.get(f"recipes/{recipe.pk}")["content"]
        for method, path, body in (
            ("get", f"trays/{tray.pk}/board?name=%00", None),
            ("post", "trays", {"name": "a\0b"}),
            ("post", "trays", {"name": "a\ud800b"}),
            ("put", f"trays/{tray.pk}", {"name": "\0"}),
            ("post", "recipes", {"content": content | {"title": "a\ud800"}}),
            ("post", "recipes", {"content": content | {"note": "\0"}}),
            ("post", f"trays/{tray.pk}/put-back", {"places": [{"photo": photo, "position": 2**31}]}),
            ("post", f"trays/{tray.pk}/put-back", {"places": [{"photo": photo, "position": -1}]}),
            ("post", f"trays/{tray.pk}/folders", {"root": self.root.pk, "path": "x/" * 600}),
        ):
            with self.subTest(path=path, body=body):
                arguments = (json.dumps(body),) if body else ()
                answer = getattr(self.client, method)(f"/api/{path}", *arguments, content_type="application/json")
                self.assertIn(answer.status_code, (404, 422), answer.content[:200])
        self.assertEqual((Tray.objects.count(), Recipe.objects.count()), (1, 1))

    def test_long_names_of_many_bytes(self) -> None:
        tray = self.tray()
        data = (PHOTOS / "shop-stock/QM4_0117.jpg").read_bytes()
        name = "\u00e9" * 200 + ".jpg"
        answer = self.client.post(f"/api/trays/{tray.pk}/uploads", {"file": SimpleUploadedFile(name, data)})
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        self.assertTrue(answer.json()["name"].endswith("\u00e9.jpg"))
