"""A tray's names and sums, brought up to date by what changed, are those of a tray that is planned anew."""

from __future__ import annotations

import random
from unittest import mock

from django.db import connection, transaction
from django.utils import timezone

from server.board import journal, ledger, plans
from server.board.planning import lit, planned
from server.framings import flows as framings
from server.framings import sharpness
from server.photos.models import Photo
from server.runs.models import Rendition, Run
from server.sheet import typing
from server.sheet.typing import Edit
from server.tests.cases import StudioCase
from server.trays import flows
from server.trays.models import Tray
from tray_core.fingerprint import fingerprint
from tray_core.plan import Framing
from tray_core.tone import NEUTRAL, Tone

WIDE = [(3000, 2000), (2000, 3000), (2400, 2400), (4000, 1500)]


class Following(StudioCase):
    def prepared(self, count: int, folders: int = 1, pattern: str = "{stem}-{recipe}") -> Tray:
        recipes = [
            self.recipe("Square", frame={"way": "crop", "shape": "1:1", "anchor": "ask"}, name={"pattern": pattern}),
            self.recipe("Light", file={"format": "jpeg", "under_kb": 30}, name={"pattern": pattern}),
            self.recipe("Page", name={"pattern": f"{pattern}-{{width}}"}),
        ]
        tray = flows.create_tray(self.studio, "Autumn")
        flows.light(tray, [recipe.pk for recipe in recipes])
        names = [f"shelf-{n % folders}/QM4_{n // folders:04}.jpg" for n in range(count)]
        self.read_already(tray, names)
        return tray

    def said(self, tray: Tray, known: ledger.Ledger) -> object:
        """All that a ledger tells."""
        recipes = [recipe for recipe, _ in lit(tray)]
        sums = known.sums
        numbers = {each: getattr(sums, each) for each in ("renditions", "made", "made_bytes", "to_make", "open")}
        return (
            numbers,
            (sums.same_names, sums.originals, sums.about({recipe.pk: 1.25 for recipe in recipes})),
            sums.eye,
            {state: photos for state, photos in sums.photos.items() if photos},
            known.number,
            {photo: dict(known.names.of(photo)) for photo in known.number},
            known.shown(),
        )

    def check(self, tray: Tray) -> None:
        """What is kept is what would be found anew."""
        with ledger.ledger(tray, lit(tray)) as known:
            found = self.said(tray, known)
        self.assertEqual(found, self.said(tray, ledger.Ledger(tray, lit(tray))))
        remembered = self.alone(tray)
        plans._remembered.clear()
        self.assertEqual(remembered, self.alone(tray))

    def alone(self, tray: Tray) -> list[object]:
        """What windows of the board plan their cells from."""
        rows = planned(tray, lit(tray), list(tray.places.values_list("photo_id", flat=True)))
        return [
            (row.photo.pk, cell.plans, cell.prints, cell.forecasts, cell.state) for row in rows for cell in row.cells
        ]

    def edit(self, chance: random.Random, tray: Tray, run: Run) -> str:
        """Do something to a tray, as its people, its workers or its files would."""
        places = list(tray.places.select_related("photo"))
        photo = chance.choice(places).photo
        recipe = chance.choice(lit(tray))[0]
        what = chance.choice(
            (
                *("frame", "sharpen", "leave out", "take out", "put back", "gone", "made", "lost", "fails", "type"),
                *("move", "tone", "read"),
            )
        )
        if what == "frame":
            drawn = [
                Framing(name="close", x=0.1, y=0.1, width=0.4, height=0.4, recipe=chance.choice((None, recipe.pk)))
            ]
            framings.keep(self.studio, {photo.pk: chance.choice(([], drawn))})
        elif what == "sharpen":
            sharpness.keep(tray, recipe, {photo.pk: chance.choice((None, 40, 150))})
        elif what == "leave out":
            flows.include(tray, [(photo.pk, recipe.pk)], chance.random() < 0.5)
        elif what == "take out" and len(places) > 4:
            self.out += flows.take_out(tray, [photo.pk])
        elif what == "put back" and self.out:
            flows.put_back(tray, [self.out.pop()])
        elif what == "gone":
            state = Photo.State.READY if photo.state == Photo.State.GONE else Photo.State.GONE
            Photo.objects.filter(pk=photo.pk).update(state=state, read=timezone.now())
        elif what == "type":
            title = chance.choice(("", "Lark", "Dial", f"Clock {photo.pk}"))
            typing.keep(tray, [Edit(photo.pk, {"title": title}, None)])
        elif what == "move":
            flows.put_in_order(tray, chance.sample([place.photo_id for place in places], min(3, len(places))))
        elif what == "tone":
            tone = chance.choice((NEUTRAL, Tone(exposure=chance.choice((-0.5, 0.5)))))
            Photo.objects.filter(pk=photo.pk).update(tone=tone.to_json())
        elif what == "read":
            found = {"digest": f"{chance.random():.30f}", "width": photo.width + 1}
            Photo.objects.filter(pk=photo.pk).update(**found, read=timezone.now())
        elif what in ("made", "fails"):
            self.make(tray, run, photo.pk, recipe.pk, what)
        elif what == "lost":
            run.renditions.filter(photo=photo, state="made").update(lost=chance.choice(("", "gone", "changed")))
        return what

    def make(self, tray: Tray, run: Run, photo: int, recipe: int, what: str) -> None:
        """As if a worker had made a cell's renditions, or failed."""
        run.renditions.filter(photo=photo, recipe=recipe).delete()
        for row in planned(tray, lit(tray)):
            for cell in row.cells if row.photo.pk == photo else ():
                for plan in cell.plans if cell.recipe.pk == recipe else ():
                    how = {field: getattr(plan, field) for field in ("width", "height", "name", "folder", "part")}
                    done = {"state": "made", "receipt": {"bytes": 20_000 + plan.number.run}} if what == "made" else {}
                    Rendition.objects.create(
                        run=run,
                        photo=row.photo,
                        recipe=cell.recipe,
                        version=cell.recipe.current,
                        n=plan.number.run,
                        fingerprint=fingerprint(row.photo.digest, plan),
                        **({"state": "failed"} | how | done),
                    )

    def rehearse(self, seed: int, tray: Tray, edits: int) -> int:
        """Edit and compare; gives how often the whole tray was planned anew for it."""
        self.out: list[tuple[int, int]] = []
        chance = random.Random(seed)
        run = Run.objects.create(studio=self.studio, tray=tray, tray_name=tray.name)
        self.check(tray)
        with mock.patch.object(ledger, "_planned", side_effect=ledger._planned) as anew:
            for number in range(edits):
                did = [self.edit(chance, tray, run) for _ in range(chance.randrange(1, 4))]
                with self.subTest(seed=seed, number=number, did=did):
                    self.check(tray)
        return anew.call_count

    def test_any_change_is_followed_without_planning_anew(self) -> None:
        self.assertEqual(self.rehearse(1, self.prepared(12), 60), 0)

    def test_words_and_counters_of_folders_and_shapes(self) -> None:
        """Typed titles stand in names, and numbers hang on which other photos can be read."""
        tray = self.prepared(12, folders=3, pattern="{title or stem}-{n}")
        for recipe, count in zip(lit(tray), ("folder", "shape", "recipe"), strict=True):
            content = recipe[0].current.content  # type: ignore[union-attr]
            self.change(recipe[0], content | {"name": content["name"] | {"count": count}})
        self.rehearse(3, tray, 60)

    def test_names_that_hang_on_others(self) -> None:
        """Six folders with the same file names: names are numbered, and free names move others."""
        tray = self.prepared(12, folders=6, pattern="{stem}")
        self.assertGreater(self.rehearse(2, tray, 60), 0)

    def test_rows_that_are_asked_for_again_are_not_planned_again(self) -> None:
        tray = self.prepared(6)
        first = self.alone(tray)
        with mock.patch.object(plans, "plan", side_effect=plans.plan) as anew:
            self.assertEqual(self.alone(tray), first)
            self.assertEqual(anew.call_count, 0)
            Photo.objects.filter(pk=tray.places.first().photo_id).update(width=2999)
            self.assertNotEqual(self.alone(tray), first)
            self.assertEqual(anew.call_count, 3)

    def test_what_was_under_way_when_somebody_looked_is_seen_later(self) -> None:
        tray = self.prepared(4)
        self.check(tray)
        photo, recipe = tray.places.first().photo_id, lit(tray)[1][0].pk
        before = journal.changes(tray.pk, None).until
        with transaction.atomic():
            flows.include(tray, [(photo, recipe)], False)
            # Whoever looks now sees nothing of it, and goes on from before it.
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_current_xact_id()::text")
                self.assertGreaterEqual(int(cursor.fetchone()[0]), int(before))
        self.assertEqual(journal.changes(tray.pk, before).states, {photo})
        self.check(tray)

    def test_the_journal_is_kept_short(self) -> None:
        self.prepared(2)
        with connection.cursor() as cursor:
            cursor.execute("UPDATE board_change SET made = now() - interval '2 days'")
            journal.forget()
            cursor.execute("SELECT count(*) FROM board_change")
            self.assertEqual(cursor.fetchone()[0], 0)
