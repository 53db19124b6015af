"""`python -m tray_core`: the product without server or database."""

from __future__ import annotations

import argparse
import functools
import json
import os
import sys
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, get_args

from tray_core.batch import tasks_of, workers
from tray_core.command.afterwards import do_afterwards
from tray_core.command.checking import check_command
from tray_core.command.given import Given, read_outlines, read_tones
from tray_core.command.lines import asking_line, facts_line, failed_line, outcome_line, planned_line
from tray_core.command.markup import write_markup
from tray_core.command.outlines import outlines_command
from tray_core.command.shelves import read_recipes
from tray_core.command.words import Table, read_words_file, words_command
from tray_core.errors import PlaceError, RecipeError, TrayError
from tray_core.line import Outcome
from tray_core.line.preview import look_at
from tray_core.line.write import FileId, file_id
from tray_core.marks.checking import check_marks
from tray_core.outlets import outlet_schema
from tray_core.outline import traced
from tray_core.photo import DEFAULT_LIMITS, Limits, PhotoFacts, find_photos, read_bytes, read_facts
from tray_core.pixels.decode import decode
from tray_core.plan.planning import Plan, plan_all
from tray_core.plan.weight import Detail, about_bytes
from tray_core.recipe import Recipe, RecipeProblems, check_profile, recipe_schema
from tray_core.recipe.place import Taken, constant_subfolder
from tray_core.words import with_words

Read = Callable[[Sequence[Path], Limits], Iterator[PhotoFacts | TrayError]]
ALL_MADE, SOME_FAILED, WRONG_USE = 0, 1, 2


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="tray_core", description="Make renditions of photos by recipes.")
    commands = parser.add_subparsers(dest="command", required=True)
    render = commands.add_parser("render", help="make renditions; one JSON object a line for each")
    render.add_argument(
        "--recipe",
        action="append",
        required=True,
        metavar="R.json",
        help="a recipe, or a file of several; may be repeated",
    )
    render.add_argument("--out", required=True, metavar="DIR", help="the output root")
    render.add_argument("--workers", type=_positive, default=1, metavar="N", help="worker processes (default 1)")
    render.add_argument(
        "--markup", metavar="FILE", help="picture elements of what was made: .html, .json, or index.html"
    )
    render.add_argument("--sizes", default="", metavar="SIZES", help="the sizes attribute of the markup, such as 50vw")
    plan = commands.add_parser("plan", help="say what render would make, without making it")
    plan.add_argument("--recipe", action="append", required=True, metavar="R.json")
    plan.add_argument("--out", metavar="DIR")
    for command in (render, plan):
        command.add_argument("--words", metavar="W.csv", help="words of photos, above what their files say")
        command.add_argument("--tones", metavar="T.json", help="tones of photos, by their names or paths")
        command.add_argument("--outlines", metavar="O.json", help="outlines of objects, likewise; others are found")
        command.add_argument("--taken", choices=get_args(Taken), help="when a name is taken, whatever the recipes say")
        command.add_argument("--max-megapixels", type=_positive, default=DEFAULT_LIMITS.pixels // 1_000_000)
        command.add_argument("paths", nargs="+", metavar="PATH", help="photos, or folders with all below them")
    schema = commands.add_parser("schema", help="print the JSON Schema of a recipe file, or of an outlet's sheet")
    schema.add_argument("of", nargs="?", choices=("recipe", "outlet"), default="recipe")
    check = commands.add_parser("check", help="say what an outlet would refuse, change or spoil of finished files")
    check.add_argument("--outlet", required=True, metavar="O.json", help="its sheet")
    check.add_argument("--use", help="one of its uses (the first)")
    check.add_argument("paths", nargs="+", metavar="FILE")
    inspect = commands.add_parser("inspect", help="say what files say of themselves")
    inspect.add_argument("paths", nargs="+", metavar="FILE")
    words = commands.add_parser("words", help="say the words of photos; one JSON object a line for each")
    words.add_argument("paths", nargs="+", metavar="FILE")
    outlines = commands.add_parser("outlines", help="find outlines of objects; one JSON object, as --outlines takes it")
    outlines.add_argument("paths", nargs="+", metavar="PATH", help="photos, or folders with all below them")
    hurt = commands.add_parser("fuzz", help="read hostile files made from a seed, and say what came of them")
    hurt.add_argument("--count", type=_positive, default=2000)
    hurt.add_argument("--seed", type=int, default=1)
    return parser


def _positive(text: str) -> int:
    number = int(text)
    if number < 1:
        raise argparse.ArgumentTypeError(f"expected a whole number from 1, found {text}")
    return number


def _say(line: dict[str, Any]) -> None:
    print(json.dumps(line, ensure_ascii=False), flush=True)


def _tell(text: str) -> None:
    print(text, file=sys.stderr, flush=True)


def _read_recipes(paths: Sequence[str], taken: Taken | None) -> list[Recipe] | None:
    recipes, wrong = [], False
    for path in paths:
        try:
            for recipe in read_recipes(path):
                check_profile(recipe)
                check_marks(recipe)
                if taken is not None:
                    recipe = recipe.model_copy(update={"place": recipe.place.model_copy(update={"taken": taken})})
                recipes.append(recipe)
        except RecipeProblems as error:
            wrong = True
            for problem in error.problems:
                _tell(f"recipe: {problem}")
    return None if wrong else recipes


def _read_typed(arguments: argparse.Namespace) -> tuple[Table | Given, ...] | None:
    """What people said of photos in files; None after telling what is wrong with one."""
    found = (
        read_words_file(arguments.words, _tell),
        read_tones(arguments.tones, _tell),
        read_outlines(arguments.outlines, _tell),
    )
    read = tuple(each for each in found if each is not None)
    return read if len(read) == len(found) else None


class _Photos:
    """The photos below the paths given, read once; those that cannot be read are told at once."""

    def __init__(
        self,
        paths: Iterable[str],
        recipes: Sequence[Recipe],
        limits: Limits,
        root: Path | None,
        typed: tuple[Table | Given, ...],
        *,
        planning: bool,
    ) -> None:
        self.count = self.failed = 0
        self.originals: set[FileId] = set()
        beside = {tuple(Path(found).parts) for recipe in recipes if (found := constant_subfolder(recipe.place))}
        self._found = [each for each in find_photos(paths, leave_out=root) if not _made_beside(each[0], beside)]
        self._recipes, self._limits, self._typed, self._planning = recipes, limits, typed, planning
        for path, _ in self._found:
            if (identity := file_id(path)) is not None:
                self.originals.add(identity)

    def __bool__(self) -> bool:
        """Whether there are any; where there are none, says so."""
        if not self._found:
            _tell("Expected photos below these paths, found none. Are they below --out, or of another kind?")
        return bool(self._found)

    def facts(self, read: Read) -> Iterator[PhotoFacts | None]:
        """What the plan needs to know of each, as `read` finds it; None for those that cannot be read."""
        read_ones = read([path for path, error in self._found if error is None], self._limits)
        for path, error in self._found:
            self.count += 1
            found = next(read_ones) if error is None else error
            if isinstance(found, PhotoFacts):
                for each in self._typed:
                    found = each.over(found)
                yield found
                continue
            self.failed += 1
            for recipe in self._recipes:
                _say(failed_line(path, recipe.title, found, planning=self._planning))
            yield None
        for each in self._typed:
            each.tell_unused(_tell)


def _made_beside(path: Path, subfolders: Collection[tuple[str, ...]]) -> bool:
    """Whether a file lies where a recipe puts its own, beside originals."""
    folder = path.parent.parts
    return any(folder[-len(each) :] == each for each in subfolders)


def _headers(paths: Sequence[Path], limits: Limits) -> Iterator[PhotoFacts | TrayError]:
    for path in paths:
        try:
            data = read_bytes(path, limits)
            yield with_words(read_facts(path, limits, data), data)
        except TrayError as error:
            yield error


def _render(arguments: argparse.Namespace) -> int:
    recipes = _read_recipes(arguments.recipe, arguments.taken)
    typed = _read_typed(arguments)
    if recipes is None or typed is None:
        return WRONG_USE
    root = Path(arguments.out)
    try:
        root.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        _tell(f"{root}: expected a folder that can be made, found {error.strerror}. Choose another --out.")
        return WRONG_USE
    limits = Limits(pixels=arguments.max_megapixels * 1_000_000)
    photos = _Photos(arguments.paths, recipes, limits, root, typed, planning=False)
    # Where the interesting part decides, or an object's edge, pixels are needed to plan.
    outlines = any(recipe.cutout is not None for recipe in recipes)
    looks = outlines or any(getattr(recipe.frame, "anchor", "") == "interest" for recipe in recipes)
    if not photos:
        return WRONG_USE
    done = failed = asking = 0
    made: list[Outcome] = []
    with workers(arguments.workers) as hands:
        plans = plan_all(photos.facts(functools.partial(hands.read, outlines=outlines) if looks else _headers), recipes)
        if looks and arguments.workers > 1:
            plans = iter(list(plans))  # read all first: who makes would wait for who reads, in the same hands
        waiting: list[Plan] = []
        for outcome in hands.make(tasks_of(_placed(plans, waiting), root), photos.originals, limits):
            _say(outcome_line(outcome))
            done += 1
            failed += outcome.status == "failed"
            asking += outcome.status == "asking"
            made.append(outcome)
            _progress(outcome.plan, done, outcome.receipt.notes if outcome.receipt else ())
        for plan in waiting:
            _say(asking_line(plan))
        asking += len(waiting)
    complete = do_afterwards(root, made, _tell)
    if arguments.markup and not write_markup(Path(arguments.markup), arguments.sizes, made, _tell):
        return SOME_FAILED
    _tell(
        f"{photos.count} photos, {done - failed - asking + len(waiting)} renditions made or kept, "
        f"{failed + photos.failed * len(recipes)} failed" + (f", {asking} wait for an answer" if asking else "")
    )
    return SOME_FAILED if failed or photos.failed or asking or not complete else ALL_MADE


def _placed(rows: Iterable[list[Plan]], waiting: list[Plan]) -> Iterator[list[Plan]]:
    """The same rows without renditions whose recipe asks where to crop, or whose outline is not certain; these go to
    `waiting`.
    """
    for row in rows:
        asks = [
            plan
            for plan in row
            if plan.needs_outline or (plan.layout.asks and getattr(plan.recipe.frame, "anchor", "") == "ask")
        ]
        waiting.extend(asks)
        yield [plan for plan in row if plan not in asks] if asks else row


def _progress(plan: Plan, done: int, notes: tuple[str, ...]) -> None:
    _tell(f"{done:>5}  {Path(plan.photo).name} -> {plan.path}" + "".join(f"\n       {note}" for note in notes))


def _plan(arguments: argparse.Namespace) -> int:
    recipes = _read_recipes(arguments.recipe, arguments.taken)
    typed = _read_typed(arguments)
    if recipes is None or typed is None:
        return WRONG_USE
    limits = Limits(pixels=arguments.max_megapixels * 1_000_000)
    root = Path(arguments.out) if arguments.out else None
    photos = _Photos(arguments.paths, recipes, limits, root, typed, planning=True)
    details: dict[str, Detail] = {}
    if not photos:
        return WRONG_USE

    def weighed(paths: Sequence[Path], limits: Limits) -> Iterator[PhotoFacts | TrayError]:
        for path in paths:
            try:
                data = read_bytes(path, limits)
                facts = read_facts(path, limits, data)
                looked = look_at(facts, data)
                details[facts.path] = looked.detail
                outline = traced(looked.found.outline, (facts.width, facts.height))
                yield with_words(replace(facts, interest=looked.interest, outline=outline), data)
            except TrayError as error:
                yield error

    for row in plan_all(photos.facts(weighed), recipes):
        for plan in row:
            _say(planned_line(plan, root, about_bytes(plan, details.get(plan.photo))))
    return SOME_FAILED if photos.failed else ALL_MADE


def _inspect(arguments: argparse.Namespace) -> int:
    wrong = False
    for path in map(Path, arguments.paths):
        facts, error = None, None
        try:
            data = read_bytes(path)
            facts = read_facts(path, data=data)
            if facts.ends_early:
                # Only the pixels can tell whether anything but the end marker is missing.
                decode(facts, data, (1, 1))
        except TrayError as problem:
            error, wrong = problem, True
        _say(facts_line(path, facts, error))
    return SOME_FAILED if wrong else ALL_MADE


def _fuzz(arguments: argparse.Namespace) -> int:
    from tray_core.fuzz import fuzz  # brings its corpus' writers along

    report = fuzz(arguments.count, arguments.seed, _tell)
    _say({"files": report.files, **report.outcomes, "peak_mb": round(report.peak_mb)})
    for broken in report.broken:
        _tell(broken)
    return SOME_FAILED if report.broken else ALL_MADE


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; the exit code says all made (0), some failed (1), wrong use (2)."""
    given = _parser().parse_args(arguments)
    try:
        match given.command:
            case "render":
                return _render(given)
            case "plan":
                return _plan(given)
            case "words":
                return ALL_MADE if words_command(given.paths, DEFAULT_LIMITS, _say) else SOME_FAILED
            case "outlines":
                return ALL_MADE if outlines_command(given.paths, DEFAULT_LIMITS, _tell) else SOME_FAILED
            case "inspect":
                return _inspect(given)
            case "fuzz":
                return _fuzz(given)
            case "check":
                done = check_command(given.paths, given.outlet, given.use, DEFAULT_LIMITS, _say, _tell)
                return ALL_MADE if done else SOME_FAILED
        print(json.dumps(recipe_schema() if given.of == "recipe" else outlet_schema(), indent=2))
        return ALL_MADE
    except (PlaceError, RecipeError) as error:
        _tell(str(error))
        return WRONG_USE
    except BrokenPipeError:
        # The reader went away; what was made stays made.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return SOME_FAILED
    except KeyboardInterrupt:
        _tell("stopped; what was made is whole and stays")
        return SOME_FAILED
