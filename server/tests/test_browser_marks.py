"""Shared marks on their own page: made, changed, restored, undone, and followed by the recipes that have them."""

from __future__ import annotations

import re
from typing import Any

from playwright.sync_api import expect

from server.recipes.models import Part, PartVersion, Recipe
from server.tests.browser import AccessCase


class Marks(AccessCase):
    def test_a_mark_is_made_changed_restored_and_undone(self) -> None:
        recipe = self.recipe("Journal", finish={"marks": [{"text": "Old"}]}, parts={"finish": "Credit"})
        PartVersion.objects.update(made_by=None)  # somebody else's: another sitting
        self.tray(recipe)
        self.sign_in()
        self.open("/marks")
        page = self.page
        card = page.locator("article", has_text="Credit")
        expect(card).to_contain_text("in Journal")
        expect(card.locator(".grounds img")).to_have_count(3)
        card.get_by_role("button", name="Change Credit").click()
        self.look("a mark, open")
        text = card.get_by_role("textbox", name="Text")
        text.fill("{nothing}")
        card.get_by_role("button", name="Keep for all its recipes").click()
        expect(card.get_by_text("Expected")).to_be_visible()
        text.fill("New © {creator}")
        card.get_by_role("checkbox", name="Clear of faces").check(force=True)
        card.get_by_role("button", name="Keep for all its recipes").click()
        expect(card.get_by_role("button", name=re.compile("Restore version 1"))).to_be_visible()
        self.assertEqual(self.said(recipe), {"text": "New © {creator}", "clear": True})
        page.keyboard.press("Control+z")
        self.wait_for(lambda: self.said(recipe) == {"text": "Old"})
        page.keyboard.press("Control+Shift+z")
        self.wait_for(lambda: "clear" in self.said(recipe))
        expect(card.get_by_text("Version 4")).to_be_visible()
        card.get_by_role("button", name=re.compile("Restore version 1")).click()
        self.wait_for(lambda: self.said(recipe) == {"text": "Old"})
        page.get_by_role("button", name="New mark").dblclick()
        expect(page.locator("article", has_text="Credit line")).to_have_count(1)
        self.assertEqual(Part.objects.count(), 2)
        page.get_by_role("button", name="Delete Credit", exact=True).click()
        self.wait_for(lambda: Part.objects.count() == 1)
        self.assertNotIn("parts", self.content(recipe))
        page.keyboard.press("Control+z")
        self.wait_for(lambda: self.content(recipe).get("parts") == {"finish": "Credit"})

    def content(self, recipe: Recipe) -> dict[str, Any]:
        current = Recipe.objects.select_related("current").get(pk=recipe.pk).current
        assert current is not None
        return dict(current.content)

    def said(self, recipe: Recipe) -> dict[str, Any]:
        mark: dict[str, Any] = self.content(recipe)["finish"]["marks"][0]
        return {name: value for name, value in mark.items() if name != "at"}
