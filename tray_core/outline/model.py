"""What an outline says: closed curves through nodes, in shares of the upright photo."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from tray_core.errors import RecipeError

MOST_NODES = 4000
"""Of one outline: more than a toothed wheel needs, and still quick to draw."""

Share = Annotated[float, Field(ge=-1, le=2)]
Point = Annotated[tuple[Share, Share], Field(strict=False)]


class Node(BaseModel):
    """A point of a curve. at: where, as (x, y). before, behind: the handles of the curve that comes and of the one that
    goes, None where that is straight. corner: whether the two handles may point to different sides.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)

    at: Point
    before: Point | None = None
    behind: Point | None = None
    corner: bool = False

    def to_json(self) -> dict[str, Any]:
        """Plain values without those that say nothing."""
        values = self.model_dump(mode="json")
        return {name: value for name, value in values.items() if value not in (None, False)}


Path = Annotated[tuple[Node, ...], Field(strict=False, min_length=2)]


class Outline(BaseModel):
    """The edge of what a photo shows.

    paths: closed cubic Bézier curves, in shares of the upright photo's width and height; what lies in an even number of
    them is ground, so that a hole is a path in a path. grow: how far out, in pixels of the photo; negative is in.
    smooth: the standard deviation of a blur along the edge, in pixels of the photo. sure: whether it was found without
    doubt, or a person looked at it.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", strict=True)

    paths: Annotated[tuple[Path, ...], Field(strict=False)] = ()
    grow: Annotated[float, Field(ge=-50, le=50)] = 0.0
    smooth: Annotated[float, Field(ge=0, le=50)] = 0.0
    sure: bool = True

    @property
    def empty(self) -> bool:
        """Whether there is none."""
        return not self.paths

    def to_json(self) -> dict[str, Any]:
        """Plain values; nothing for an empty one."""
        if self.empty:
            return {}
        made: dict[str, Any] = {"paths": [[node.to_json() for node in path] for path in self.paths]}
        made |= {name: value for name in ("grow", "smooth") if (value := getattr(self, name))}
        return made if self.sure else made | {"sure": False}


NO_OUTLINE = Outline()


def check_outline(data: Any, source: str = "outline") -> Outline:
    """The outline of plain JSON values; RecipeError names the first wrong field by its path."""
    try:
        if not isinstance(data, dict):
            kind = type(data).__name__
            raise RecipeError(source, expected="an object", found=kind, remedy="Write it as { ... }.")
        whole = {key: float(value) if type(value) is int else value for key, value in data.items()}
        found = Outline.model_validate(_with_floats(whole))
    except ValidationError as error:
        details = error.errors()[0]
        path = ".".join((source, *map(str, details["loc"])))
        expected = details["msg"][:1].lower() + details["msg"][1:]
        shown = repr(details["input"])[:60]
        raise RecipeError(path, expected=expected, found=shown, remedy="Correct the value.") from error
    if (count := sum(map(len, found.paths))) > MOST_NODES:
        raise RecipeError(
            f"{source}.paths",
            expected=f"at most {MOST_NODES} points",
            found=f"{count}",
            remedy="Take points away; straight and smooth stretches need few.",
        )
    return found


def _with_floats(value: Any) -> Any:
    """Whole numbers are shares, too; a yes or no stays one."""
    if isinstance(value, dict):
        return {key: _with_floats(each) for key, each in value.items()}
    if isinstance(value, list | tuple):
        return [_with_floats(each) for each in value]
    return float(value) if type(value) is int else value


def outline_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of a photo's outline."""
    schema = Outline.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Outline"}
