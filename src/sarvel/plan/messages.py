"""What is wrong in a plan, in words: where, what, what to do."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic_core import ErrorDetails

from sarvel.plan import schema
from sarvel.plan.lines import KeyPath, line_of

_NO_KEYS = (schema.BY_BAND, schema.IN_ORDER, "[key]")  # what pydantic puts into paths beside keys


class Problem(Exception):  # noqa: N818 - raised and caught by the reader alone, to carry a place to its message
    """What is wrong with one value of the plan, and what it should be.

    Attributes:
        path: the keys that lead to it.
    """

    def __init__(self, path: KeyPath, message: str) -> None:
        super().__init__(message)
        self.path = path


def where(file: Path, lines: Mapping[KeyPath, int], path: KeyPath) -> str:
    """`sarvel.toml:14: slots.card`: how a message begins."""
    line = line_of(lines, path)
    key = ".".join(f'"{part}"' if isinstance(part, str) and "." in part else str(part) for part in path)
    return f"{file}:{line}: {key}" if line else f"{file}: {key}"


def nearest(name: str, known: Iterable[str]) -> str:
    """What to write for a name that is not known."""
    import difflib  # noqa: PLC0415 - only for what is wrong

    known = list(known)
    near = difflib.get_close_matches(name, known, n=1, cutoff=0.5)
    return f"did you mean '{near[0]}'?" if near else f"known here: {', '.join(known)}"


def toml_in_words(file: Path, message: str) -> str:
    """The message of tomllib, `Expected '=' after a key (at line 3, column 5)`, in our form."""
    what, _, place = message.rpartition(" (at ")
    words = place.rstrip(")").split()
    if place.startswith("line") and len(words) == 4:
        return (
            f"{file}:{words[1].rstrip(',')}:{words[3]}: not TOML: {what}; mend it there, or quote the text it stands in"
        )
    return f"{file}: not TOML: {message}; see whether a quote or bracket is left open"


def innermost(errors: list[ErrorDetails]) -> list[ErrorDetails]:
    """Without those that only follow from another: a list is called too short when its members are wrong."""
    paths = [error["loc"] for error in errors]
    return [error for error in errors if not any(path[: len(error["loc"])] == error["loc"] != path for path in paths)]


def in_words(file: Path, lines: Mapping[KeyPath, int], error: ErrorDetails) -> str:
    """A finding of pydantic in our form."""
    path: KeyPath = tuple(part for part in error["loc"] if part not in _NO_KEYS)
    place = where(file, lines, path)
    wanted = _at(path)[1]
    match error["type"]:
        case "extra_forbidden":
            return f"{place}: unknown key; {nearest(str(path[-1]), _keys(_at(path[:-1])[0]))}"
        case "missing":
            return f"{place}: is missing; write {wanted}"
    return f"{place}: got {_as_toml(error['input'])}; write {wanted}"


def _at(path: KeyPath) -> tuple[type[BaseModel], str]:
    """The innermost table of the schema on a path, and what the last key of it that the path goes through wants."""
    model: type[BaseModel] = schema.PlanFile
    description = ""
    for part in path:
        fields = {field.alias or name: field for name, field in model.model_fields.items()}
        if field := fields.get(str(part)):
            description = field.description or ""
            model = next((kind for kind in _kinds(field.annotation) if _is_table(kind)), model)
    return model, description


def _keys(model: type[BaseModel]) -> list[str]:
    return [field.alias or name for name, field in model.model_fields.items()]


def _is_table(kind: Any) -> bool:  # noqa: ANN401 - annotations have no common type
    return isinstance(kind, type) and issubclass(kind, BaseModel)


def _kinds(annotation: Any) -> Iterator[Any]:  # noqa: ANN401 - annotations have no common type
    if get_origin(annotation) in (Annotated, Union, UnionType, dict, tuple):
        for argument in get_args(annotation):
            yield from _kinds(argument)
    else:
        yield annotation


def _as_toml(value: Any) -> str:  # noqa: ANN401 - whatever the user wrote
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return "a table"
    return f'"{value}"' if isinstance(value, str) else str(value)
