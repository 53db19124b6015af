"""Reading recipes: from a file, from text, from plain JSON values; every problem named by its path."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from tray_core.errors import RecipeError
from tray_core.recipe.base import Conflict
from tray_core.recipe.model import FORMAT, VERSION, Recipe

_TAGS = frozenset(
    (
        *("long-edge", "short-edge", "width", "height", "box", "exact", "percent", "megapixels", "widths", "own"),
        *("keep", "crop", "pad", "stretch", "bounds", "jpeg", "png", "webp", "avif", "tiff", "pdf", "gif"),
        "same",
    )
)


class RecipeProblems(RecipeError):
    """All that is wrong with one recipe; it reads as its first problem."""

    problems: tuple[RecipeError, ...] = ()

    @classmethod
    def of(cls, problems: list[RecipeError]) -> RecipeProblems:
        first = problems[0]
        error = cls(first.subject, expected=first.expected, found=first.found, remedy=first.remedy)
        error.problems = tuple(problems)
        return error


def read_recipe_file(path: Path | str) -> Recipe:
    """Read and check the recipe file at `path`. RecipeProblems names file and JSON path."""
    path = Path(path)
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        found = error.strerror if isinstance(error, OSError) else "data that is not UTF-8 text"
        problem = RecipeError(
            str(path),
            expected="a recipe file",
            found=(found or "an error").lower(),
            remedy="Check the path and the file.",
        )
        raise RecipeProblems.of([problem]) from error
    recipe = read_recipe_text(text, source=str(path))
    return recipe if recipe.title else recipe.model_copy(update={"title": path.stem})


def read_recipe_text(text: str, source: str = "recipe") -> Recipe:
    """Read a recipe from JSON text."""
    try:
        data = json.loads(text, object_pairs_hook=_object)
    except (ValueError, RecursionError) as error:
        problem = RecipeError(source, expected="JSON", found=str(error), remedy="Mend the file at that place.")
        raise RecipeProblems.of([problem]) from error
    return check_recipe(data, source)


def _object(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    """A JSON object; a key written twice is an error, with one exception.

    Recipes are also written with "name" twice: once as the recipe's title, a text, and once as the
    station. The two cannot be mistaken for each other, so the text is read as the title.
    """
    found: dict[str, Any] = {}
    for key, value in pairs:
        if key == "name" and isinstance(value, str) and any(k == key and isinstance(v, dict) for k, v in pairs):
            key = "title"
        if key in found:
            raise ValueError(f"the key {key!r} stands twice in one object")
        found[key] = value
    return found


def check_recipe(data: Any, source: str = "") -> Recipe:
    """Make a recipe of plain JSON values, or raise RecipeProblems with every problem in it."""
    lead = f"{source}: " if source else ""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        found = repr(data.get("format")) if isinstance(data, dict) else f"a {type(data).__name__}"
        problem = RecipeError(
            f"{lead}format",
            expected=f"{FORMAT!r}",
            found=found if found != "None" else "nothing",
            remedy="Is this a recipe file?",
        )
        raise RecipeProblems.of([problem])
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        problem = RecipeError(
            f"{lead}version",
            expected=f"at most {VERSION}",
            found=str(version),
            remedy="The recipe was written by a newer version of the product; update this one.",
        )
        raise RecipeProblems.of([problem])
    try:
        return Recipe.model_validate(data)
    except ValidationError as error:
        raise RecipeProblems.of([problem_of(lead, details) for details in error.errors()]) from error


_EXPECTED = {
    "width": "a thickness such as 12 px or 4 %",
    "corners": "a radius such as 12 px or 4 %",
    "to": "a shape such as 1:1",
    "text": "a text such as © {creator}",
    "color": "a color such as #ffffff",
    "at": "a place such as bottom-right or [0.5, 0.9]",
    "shape": "a shape such as 3:2 or 1920x640",
    "narrowest": "a shape such as 4:5",
    "widest": "a shape such as 1.91:1",
    "fill": "blur, edge, transparent, or a color such as #ffffff",
    "matte": "a color such as #ffffff",
    "pattern": "a name such as {stem}-{n:03}",
    "subfolder": "a folder such as web/{recipe}",
    "icc": "the name of a profile file",
    "page": "A4, letter, A4 landscape, or pixels such as 1080x1350",
    **dict.fromkeys(("least", "most", "best", "shown", "largest"), "width and height in pixels, such as 1080 × 1350"),
    "crop": "a shape such as 1:1",
    "checked": "a day such as 2031-10-14",
    "ground": "clear, keep, or a color such as #ffffff",
}
"""What fields take that a person types, by the field's name."""


def problem_of(lead: str, details: ErrorDetails) -> RecipeError:
    """One problem of pydantic in our words. lead: the source, before its path."""
    steps = [str(step) for step in details["loc"]]
    # A choice between kinds of one station puts the kind's name into the path; the JSON has no such step.
    mark = steps[:2] == ["finish", "marks"]
    path = ".".join(
        step
        for i, step in enumerate(steps)
        if not ((i == 1 and step in _TAGS and len(steps) > 2) or (mark and i == 3 and step in ("text", "picture")))
    )
    context = details.get("ctx", {})
    found = "nothing" if details["type"] == "missing" else repr(details["input"])[:80]
    expected, remedy = details["msg"][:1].lower() + details["msg"][1:], "Correct the value."
    match details["type"]:
        case "extra_forbidden":
            expected, found = "only known keys", f"an unknown key {steps[-1]!r}"
            remedy = "Remove it, or check its spelling."
        case "missing":
            expected, remedy = "a value", "Add it."
        case "union_tag_invalid":
            tag = str(context.get("discriminator", "")).strip("'")
            path, found = f"{path}.{tag}", repr(context.get("tag"))
            expected = f"one of {context.get('expected_tags')}"
        case "union_tag_not_found":
            tag = str(context.get("discriminator", "")).strip("'")
            path, found, expected, remedy = f"{path}.{tag}", "nothing", "a value", "Add it."
        case "value_error" if isinstance(clash := context.get("error"), Conflict):
            field = f"{path}.{clash.field}" if clash.inner else clash.field
            return RecipeError(f"{lead}{field}", expected=clash.expected, found=clash.found, remedy=clash.remedy)
        case "value_error":
            # Written as what was found, and after a semicolon what to do.
            found, _, told = str(context.get("error")).partition("; ")
            expected = _EXPECTED.get(steps[-1], "a value that this field can have")
            remedy = f"{told[:1].upper()}{told[1:]}." if told else "Correct it."
        case "model_type" | "dict_type" | "model_attributes_type":
            expected, remedy = "an object", "Write it as { ... }."
        case "literal_error":
            expected = f"{context.get('expected')}"
        case "greater_than_equal":
            expected = f"{context['ge']:g} or more"
        case "less_than_equal":
            expected = f"{context['le']:g} or less"
        case "string_too_short":
            expected, found, remedy = "some text", "nothing", "Type it."
        case "string_too_long":
            expected, found = f"{context['max_length']} characters at most", f"{len(details['input'])} of them"
        case "too_short":
            expected, found = f"at least {context['min_length']}", f"{context['actual_length']}"
        case "too_long":
            expected, found = f"{context['max_length']} at most", f"{context['actual_length']}"
        case "string_pattern_mismatch":
            expected = _EXPECTED.get(steps[-1], "another text")
        case "int_type" | "int_parsing" | "int_from_float":
            expected = "a whole number"
        case "float_type" | "float_parsing":
            expected = "a number"
        case "bool_type" | "bool_parsing":
            expected = "true or false"
        case "string_type":
            expected = "a text"
        case "list_type" | "tuple_type":
            expected = _EXPECTED.get(steps[-1], "a list")
        case _:
            expected = expected.removeprefix("input should be ")
    return RecipeError(f"{lead}{path}", expected=expected, found=found, remedy=remedy)
