"""Requests made from the API's own description, right and wrong ones: none of them may answer 500."""

from __future__ import annotations

import json
import os
import random
import re
from collections.abc import Callable
from typing import Any

import schemathesis
from django.contrib.auth import get_user_model
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis import GenerationMode
from schemathesis.core import NOT_SET

from server.board import starting
from server.framings.models import Framing
from server.photos.models import Photo
from server.project.conf import PROJECT
from server.recipes.models import Part, Recipe, RecipeVersion
from server.runs.models import Rendition, Run
from server.studios.models import Member, Studio
from server.tests.cases import StudioCase
from server.trays.models import Tray

EXAMPLES = int(os.environ.get("EXAMPLES", "4"))
"""Requests of each kind, right and wrong, to each address; forty are about 5,000."""

NASTY: list[Any] = [
    *("\0", "a\ud800", "é" * 400, "[" * 5000, ""),
    *(10**30, -1, 2**31, 2**63, -(2**63) - 1, 1e308, [], {}, None),
]


class Described(StudioCase):
    def setUp(self) -> None:
        super().setUp()
        self.copy("mixed/tiny-for-enlarging_640.jpg")
        self.recipe_made = self.recipe()
        self.made_of = self.tray(self.recipe_made)
        self.work()
        run = starting.start_run(self.made_of)
        self.work()
        part = self.send("post", "parts", {"recipe": self.recipe_made.pk, "station": "size", "name": "Small"})
        self.recipe_made.refresh_from_db()
        self.real = {
            "photo": self.made_of.places.get().photo_id,
            "recipe": self.recipe_made.pk,
            "version": self.recipe_made.current_id,
            "parts": part["id"],
            "runs": run.pk,
            "recipes": self.recipe_made.pk,
            "trays": self.made_of.pk,
            "roots": self.root.pk,
            "renditions": run.renditions.get().pk,
            "photos": self.made_of.places.get().photo_id,
            "cells": self.made_of.places.get().photo_id,
            "drafts": self.made_of.places.get().photo_id,
        }
        self.asked = 0
        self.certain = False  # whether addresses are always of what is there
        # What is wrong inside is to be an answer here as well, not an exception.
        self.client = Client(raise_request_exception=False)
        self.client.force_login(self.user)

    def answered(self, method: str, path: str, query: Any, body: Any, kind: str | None) -> None:
        """Ask, and see that something understandable comes back."""
        self.asked += 1
        data: Any = b""
        if isinstance(body, bytes | str):
            data = body
        elif kind == "multipart/form-data":
            data = body if isinstance(body, dict) else {}
        elif body is not NOT_SET:
            data = json.dumps(body)
        if kind == "multipart/form-data":
            fields = (
                {name: value for name, value in data.items() if isinstance(value, str | int)}
                if isinstance(data, dict)
                else {}
            )
            answer = self.client.post(path, {**fields, "file": SimpleUploadedFile("é" * 90 + ".jpg", b"no picture")})
        else:
            whole = f"{path}?{query}" if query else path
            answer = self.client.generic(method, whole, data, content_type=kind or "application/json")
        self.assertLess(answer.status_code, 500, f"{method} {path} {query} {body!r}"[:1500])
        if answer.streaming:  # the others are closed, and once more would end the connection to the database
            answer.close()

    def path(self, template: str, given_ones: dict[str, Any], chance: random.Random) -> str:
        """An address, of what is there more often than not."""
        folder = template.split("/")[2]
        for name, value in given_ones.items():
            real = self.real.get(name) or self.real.get(folder if folder != "pictures" else template.split("/")[3])
            each = real if real is not None and (self.certain or chance.random() < 0.8) else value
            template = template.replace(f"{{{name}}}", str(each).replace("/", "-").replace("?", "-").replace("#", "-"))
        return template

    def each(self, examples: int, modes: tuple[GenerationMode, ...], ask: Callable[[Any, str], None]) -> None:
        """`ask` with requests to every address that the API describes, and the address filled in."""
        described = schemathesis.openapi.from_dict(json.loads((PROJECT / "server" / "openapi.json").read_text()))
        chance = random.Random(1)
        how = settings(
            max_examples=examples,
            database=None,
            deadline=None,
            derandomize=True,
            phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )
        for found in described.get_all_operations():
            operation = found.ok()
            for mode in modes:

                @how
                @given(operation.as_strategy(generation_mode=mode))
                def one(case: Any) -> None:
                    ask(case, self.path(case.path, dict(case.path_parameters or {}), chance))

                with self.subTest(address=f"{operation.method} {operation.path}", mode=mode.name):
                    one()

    def test_no_request_answers_500(self) -> None:
        def ask(case: Any, path: str) -> None:
            query = case.query and "&".join(f"{name}={value}" for name, value in case.query.items())
            self.answered(case.method, path, query, case.body, case.media_type)

        self.each(EXAMPLES, (GenerationMode.POSITIVE, GenerationMode.NEGATIVE), ask)
        self.assertGreater(self.asked, 100 * EXAMPLES)

    def test_nobody_reaches_what_is_of_another_studio(self) -> None:
        """Every address with a number in it, of something that is there: as somebody else, and as nobody."""
        other, stranger = Client(), Client()
        user = get_user_model().objects.create_user("eve", password="brass-pendulum")
        Member.objects.create(user=user, studio=Studio.objects.create(name="Elsewhere"))
        other.force_login(user)
        before = self.counted()

        def ask(case: Any, path: str) -> None:
            body = json.dumps(case.body) if case.body is not NOT_SET and case.media_type == "application/json" else ""
            kind = case.media_type or "application/json"
            data = body.encode() if kind == "application/json" else b""
            self.assertIn(stranger.generic(case.method, path, data, content_type=kind).status_code, (401, 403), path)
            if "{" in case.path and self.real_ones(case.path) == path:
                answer = other.generic(case.method, path, data, content_type=kind)
                self.assertIn(answer.status_code, (404, 422), f"{case.method} {path} {body[:200]}")

        self.certain = True
        self.each(3, (GenerationMode.POSITIVE,), ask)
        self.assertEqual(self.counted(), before)

    def counted(self) -> list[int]:
        return [kind.objects.count() for kind in (Tray, Photo, Recipe, RecipeVersion, Part, Run, Rendition, Framing)]

    def real_ones(self, template: str) -> str:
        """The address with numbers of what is there; one that has none of them differs from any."""
        return self.path(template, dict.fromkeys(re.findall(r"{(\w+)}", template), "nothing"), random.Random(1))

    def test_what_was_found_before(self) -> None:
        tray, photo, recipe = (self.real[name] for name in ("trays", "photo", "recipe"))
        content = self.recipe_made.current.content
        shapes = [{"way": "pad", "shape": each} for each in ("1000:1", "1:1000", "0:1", "a", [], "9" * 400 + ":1")]
        for value in NASTY:
            cell = {"name": value, "x": value, "y": 0, "width": 0.5, "height": 0.5}
            text = str(value)
            bodies = [
                ("post", "trays", {"name": value}),
                ("put", f"trays/{tray}", {"name": value}),
                ("put", f"recipes/{recipe}", {"content": {**content, "title": value}, "version": 1}),
                ("post", "recipes", {"content": {**content, "note": value, "name": {"pattern": value}}}),
                ("post", "parts", {"recipe": recipe, "station": value, "name": value}),
                ("put", f"trays/{tray}/framings", {"photos": {str(photo): [cell]}}),
                ("post", f"trays/{tray}/bench/{photo}/{recipe}", cell),
                ("post", f"trays/{tray}/carry", {"source": photo, "framing": cell, "photos": [photo, value]}),
                ("post", f"trays/{tray}/put-back", {"places": [{"photo": photo, "position": value}]}),
                ("post", f"trays/{tray}/rows", {"photos": [value]}),
                ("post", f"trays/{tray}/runs", {"cells": [[value, value]]}),
                ("post", f"trays/{tray}/folders", {"root": self.root.pk, "path": text}),
                ("post", f"trays/{tray}/closer/{photo}/{recipe}", {"page": value, "turn": value}),
                ("post", "drafts", {"content": value, "photos": [value], "of": value}),
            ]
            for method, path, body in bodies:
                with self.subTest(path=path, value=text[:30]):
                    self.answered(method.upper(), f"/api/{path}", None, body, "application/json")
            for address in (
                f"trays/{tray}/board?name={text[:50]}&state={text[:50]}",
                f"runs/{self.real['runs']}/renditions?state={text[:50]}&start={text[:50]}",
                f"roots/{self.root.pk}/folders?path={'a/' * 600 if value == '' else text[:50]}",
                f"pictures/drafts/{photo}?recipe={text[:5000]}&framing={text[:5000]}&edge={text[:50]}&of={text[:50]}",
                f"trays/{text[:50] or 1}/board",
            ):
                with self.subTest(address=address[:60]):
                    whole = address.replace("\0", "%00").encode("utf-8", "surrogatepass").decode("latin-1")
                    self.answered("GET", f"/api/{whole}", None, NOT_SET, None)
        for frame in shapes:
            body = {"content": {**content, "frame": frame}, "photos": [photo]}
            self.answered("POST", "/api/drafts", None, body, "application/json")
            drafted = json.dumps(body["content"])
            self.answered("GET", f"/api/pictures/drafts/{photo}", f"recipe={drafted}", NOT_SET, None)
        self.answered("POST", "/api/trays", None, {"name": "x"}, "multipart/form-data")
        for kind in ("application/x-www-form-urlencoded; charset=utf-7", "text/plain; charset=nothing"):
            stranger = Client(raise_request_exception=False)
            answer = stranger.generic("POST", "/sign-in", b"username=a&password=b", content_type=kind)
            self.assertLess(answer.status_code, 500)
