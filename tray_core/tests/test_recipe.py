"""Recipe files: read as people write them, refused by the path of what is wrong."""

from __future__ import annotations

import copy
import json
import unittest
from typing import Any

import jsonschema
from pydantic import ValidationError

from tray_core.recipe import (
    RecipeProblems,
    check_recipe,
    read_recipe_file,
    read_recipe_text,
    recipe_schema,
    starters,
)
from tray_core.tests.samples import DEMO, FolderCase, recipe

EXAMPLE = """{"format": "upper-tray/recipe", "version": 1, "name": "Journal column",
 "size": {"by": "long-edge", "pixels": 1600, "enlarge": "never"},
 "sharpen": {"strength": 100},
 "color": {"profile": "srgb"},
 "file": {"format": "jpeg", "quality": 84},
 "name": {"pattern": "{stem}-{n:03}"},
 "place": {"subfolder": "{recipe}", "taken": "new-name"}}"""


class Reading(FolderCase):
    def test_example_with_its_name_as_title_and_station(self) -> None:
        made = read_recipe_text(EXAMPLE)
        self.assertEqual(made.title, "Journal column")
        self.assertEqual(made.name.pattern, "{stem}-{n:03}")
        self.assertEqual(check_recipe(made.to_json()), made)

    def test_the_order_of_the_two_names_does_not_matter(self) -> None:
        pairs = '"name": {"pattern": "{stem}"}, "name": "Later"'
        made = read_recipe_text(
            EXAMPLE.replace('"name": "Journal column",', "").replace('"name": {"pattern": "{stem}-{n:03}"}', pairs)
        )
        self.assertEqual((made.title, made.name.pattern), ("Later", "{stem}"))

    def test_without_a_title_the_file_names_it(self) -> None:
        data = json.loads(EXAMPLE)  # a plain reader keeps the last of the two names
        path = self.write("hall-banner.json", json.dumps(data).encode())
        self.assertEqual(read_recipe_file(path).title, "hall-banner")

    def test_twice_written_key_is_refused(self) -> None:
        with self.assertRaisesRegex(RecipeProblems, "'sharpen' stands twice"):
            read_recipe_text(EXAMPLE.replace('"color"', '"sharpen": {"strength": 0}, "color"'))

    def test_frozen(self) -> None:
        with self.assertRaises(ValidationError):
            recipe().title = "other"  # type: ignore[misc]


class Refusing(unittest.TestCase):
    def test_each_problem_by_its_path(self) -> None:
        cases: tuple[tuple[dict[str, Any], str, str], ...] = (
            ({"size": {"by": "long-edge", "pixels": 0}}, "size.pixels", "0"),
            ({"size": {"by": "long-edge", "pixels": 1e9}}, "size.pixels", "1000000000.0"),
            ({"size": {"by": "diagonal", "pixels": 9}}, "size.by", "'diagonal'"),
            ({"size": {"by": "box", "width": 9}}, "size.height", "nothing"),
            ({"sharpen": {"strength": 201}}, "sharpen.strength", "201"),
            ({"sharpen": {"strenght": 20, "strength": 1}}, "sharpen.strenght", "an unknown key 'strenght'"),
            ({"file": {"format": "jpeg", "quality": "84"}}, "file.quality", "'84'"),
            ({"file": {"format": "png", "quality": 84}}, "file.quality", "an unknown key 'quality'"),
            ({"color": {"profile": "p9"}}, "color.profile", "'p9'"),
            ({"place": {"taken": "burn"}}, "place.taken", "'burn'"),
            ({"name": "dial"}, "name", "'dial'"),
            ({"frmae": {}}, "frmae", "an unknown key 'frmae'"),
        )
        for change, subject, found in cases:
            data = copy.deepcopy(recipe().to_json()) | change
            with self.subTest(subject), self.assertRaises(RecipeProblems) as caught:
                check_recipe(data)
            self.assertEqual([p.subject for p in caught.exception.problems], [subject])
            self.assertEqual(caught.exception.found, found)

    def test_all_problems_at_once(self) -> None:
        data = recipe().to_json() | {"sharpen": {"strength": -1}, "extra": 1}
        with self.assertRaises(RecipeProblems) as caught:
            check_recipe(data)
        self.assertEqual({p.subject for p in caught.exception.problems}, {"sharpen.strength", "extra"})

    def test_other_files_and_later_versions(self) -> None:
        others: tuple[Any, ...] = ([], {}, {"format": "other/thing"}, 7)
        for data in others:
            with self.assertRaisesRegex(RecipeProblems, "format: expected 'upper-tray/recipe'"):
                check_recipe(data)
        with self.assertRaisesRegex(RecipeProblems, "newer version"):
            check_recipe(recipe().to_json() | {"version": 2})


class Schema(unittest.TestCase):
    def test_schema_and_reader_agree(self) -> None:
        schema = recipe_schema()
        jsonschema.Draft202012Validator.check_schema(schema)
        jsonschema.validate(json.loads(EXAMPLE), schema)
        for path in sorted((DEMO / "recipes").glob("*.json")):
            jsonschema.validate(json.loads(path.read_text()), schema)
            self.assertEqual(read_recipe_file(path).to_json(), json.loads(path.read_text()), path.name)
        with self.assertRaises(jsonschema.ValidationError):
            jsonschema.validate(recipe().to_json() | {"zap": 1}, schema)


class Stations(unittest.TestCase):
    def problems(self, **stations: Any) -> dict[str, str]:
        data = {**recipe().to_json(), **stations}
        try:
            check_recipe({key: value for key, value in data.items() if value is not None})
        except RecipeProblems as error:
            return {each.subject: f"{each.expected}; {each.found}" for each in error.problems}
        return {}

    def test_what_does_not_go_together_names_the_field_to_change(self) -> None:
        exact = {"by": "exact", "width": 300, "height": 200}
        crop = {"way": "crop", "shape": "3:2"}
        for wrong, field in (
            ({"size": exact}, "size.by"),
            ({"size": exact, "frame": {"way": "bounds", "narrowest": "1:2", "widest": "2:1"}}, "size.by"),
            ({"size": exact, "frame": crop}, "frame.shape"),
            ({"frame": {"way": "pad"}}, "frame.shape"),
            ({"frame": {"way": "bounds", "narrowest": "2:1", "widest": "1:2"}}, "frame.widest"),
            ({"frame": {"way": "crop", "shape": "3:0"}}, "frame.shape"),
            ({"frame": {"way": "crop", "shape": "3x"}}, "frame.shape"),
            ({"frame": {"way": "pad", "shape": "1:1", "fill": "pink"}}, "frame.fill"),
            ({"frame": {"way": "crop", "shape": "1:1", "panels": {"columns": 0}}}, "frame.panels.columns"),
            ({"frame": {"way": "zoom"}}, "frame.way"),
            ({"size": {"by": "widths", "widths": []}}, "size.widths"),
            ({"size": {"by": "width", "pixels": 9, "enlarge": 90}}, "size.enlarge"),
            ({"size": {"by": "width", "pixels": 9, "portrait": {"width": 3}}}, "size.portrait.pixels"),
        ):
            with self.subTest(wrong):
                found = self.problems(**wrong)
                self.assertTrue(any(name.startswith(field) for name in found), found)
        self.assertEqual(self.problems(size=exact, frame={"way": "crop"}), {})

    def test_starters_are_good_recipes(self) -> None:
        titles = [core.title for core in starters()]
        self.assertEqual(len(titles), 10)
        self.assertEqual(len(set(titles)), 10)
        for core in starters():
            self.assertTrue(core.note)
            self.assertEqual(check_recipe(core.to_json()), core)
