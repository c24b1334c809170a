"""Messages about faults of a plan: where, what, what to do."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from pathlib import Path
from types import UnionType
from typing import Annotated, Any, Union, get_args, get_origin

from pydantic import BaseModel
from pydantic_core import ErrorDetails

from sarvel.notices import Kind, Notice
from sarvel.plan import schema
from sarvel.plan.key_lines import KeyPath, line_of

_LONGEST = 80  # letters of what a message repeats

_IMAGE_ENDINGS = frozenset({"jpg", "jpeg", "png", "webp", "avif", "tif", "tiff", "gif", "jxl"})
_DECLARED = re.compile(r"Cannot declare \((.*)\) twice")
_NAMED = re.compile(r"'([^']*)'")
_KEY = re.compile(r"\s*([\w.\"-]+)\s*=\s*")
_NO_EQUALS = re.compile(r"\s*([\w-]+)(?::\s*|\s+)([^=]+?)\s*")
_BARE = re.compile(r"[^\s\"'\[{#][^\"'\[{#]*(?=#|\Z)")
_HUGE = re.compile(
    r"\d{4000,}"
)  # int() declines more than 4300 digits, CPython's documentation of sys.set_int_max_str_digits

_RENAMED = {
    "cuts": "crops",
    "shown": "sizes",
    "takes": "selectors",
    "rungs": "widths",
    "excess": "widths",
    "finish": "quality",
    "load": 'loading = "eager" or "lazy"',
    "behind": 'use = "background"',
    "background": 'use = "background"',
    "space": "reserve",
    "styled": "auto_sizes",
    "lean": "subject_at",
    "keep": "metadata",
    "turn": "rotate",
    "drawn": 'kind = "graphic" or "photo"',
}
"""Old names of keys, and their names now."""

_NO_KEYS = (schema.BY_BAND, schema.IN_ORDER, "[key]")  # what pydantic puts into paths next to keys


class Problem(Exception):  # noqa: N818 - raised and caught by the reader alone, to carry a place to its message
    """A fault of one value of the plan, with the expected value.

    Attributes:
        path: the keys that lead to it.
    """

    def __init__(self, path: KeyPath, text: str, cure: str = "") -> None:
        super().__init__(path, text, cure)
        self.path, self.text, self.cure = path, text, cure

    def notice(self, file: Path, lines: Mapping[KeyPath, int]) -> Notice:
        """A notice of it; `lines` has the line of each key."""
        return Notice(Kind.PLAN, where(file, lines, self.path), self.text, self.cure)


def shortened(text: str) -> str:
    """A text that fits into a message of one line."""
    line = "".join(letter if letter.isprintable() else " " for letter in text)
    return line if len(line) <= _LONGEST else f"{line[: _LONGEST - 1]}…"


def where(file: Path, lines: Mapping[KeyPath, int], path: KeyPath) -> str:
    """`sarvel.toml:14: slots.card`: how a message begins."""
    line = line_of(lines, path)
    parts = [shortened(str(part)) for part in path]
    key = ".".join(part if part.replace("-", "").replace("_", "").isalnum() else f'"{part}"' for part in parts)
    return f"{file}:{line}: {key}" if line else f"{file}: {key}"


def nearest(name: str, known: Iterable[str]) -> str:
    """Advice for a name that is not known."""
    import difflib

    known = list(known)
    near = difflib.get_close_matches(name, known, n=1, cutoff=0.5)
    return f"did you mean '{near[0]}'?" if near else f"known here: {', '.join(known)}"


def toml_in_words(file: Path, message: str, text: str) -> Notice:
    """The message of tomllib, `Expected '=' after a key (at line 3, column 5)`, in our form."""
    if huge := _HUGE.search(text):
        line = text.count("\n", 0, huge.start()) + 1
        return Notice(Kind.PLAN, f"{file}:{line}", f"a number of {len(huge.group())} digits", "write a smaller one")
    what, _, place = message.rpartition(" (at ")
    words = place.rstrip(")").split()
    if place.startswith("line") and len(words) == 4:
        line, column = int(words[1].rstrip(",")), words[3]
        return _slip(text.splitlines(), line, what).within(f"{file}:{line}:{column}")
    last = text.count("\n") + (not text.endswith("\n"))
    return Notice(Kind.PLAN, f"{file}:{last}", f"not TOML: {message}", "see whether a quote or bracket is left open")


def _slip(lines: list[str], number: int, what: str) -> Notice:
    """A common slip in a line of a plan, from 1; else what tomllib says."""
    written = lines[number - 1] if number <= len(lines) else ""
    found = _twice(lines, number, what) or _unwritten(written)
    text, cure = found or (f"not TOML: {what}", "correct it, or quote the text")
    if not found and ("Unclosed array" in what or "Expected ']'" in what):
        cure = "close the bracket"
    return Notice(Kind.PLAN, "", text, cure)


def _twice(lines: list[str], number: int, what: str) -> tuple[str, str] | None:
    """Text and cure of a table or a key that is there twice."""
    written = lines[number - 1] if number <= len(lines) else ""
    if found := _DECLARED.search(what):
        table = re.compile(rf"\s*\[\s*{re.escape('.'.join(_NAMED.findall(found[1])))}\s*\]")
        first = next((at for at, line in enumerate(lines, 1) if table.match(line)), number)
        return f"the table {written.strip()} is there twice", f"write all its keys in one place, such as line {first}"
    key = _KEY.match(written)
    if key is None or "overwrite" not in what:
        return None
    same = (at for at in range(number - 1, 0, -1) if (one := _KEY.match(lines[at - 1])) and one[1] == key[1])
    return f"{key[1]} is there twice, in line {next(same, number)} too", "keep one of them"


def _unwritten(written: str) -> tuple[str, str] | None:
    """Text and cure of a line whose value is not quoted, or that lacks its equals sign or has two."""
    if pair := _NO_EQUALS.fullmatch(written):
        return f"no equals sign behind {pair[1]}", f"write {pair[1]} = {pair[2]}"
    key = _KEY.match(written)
    rest = written[key.end() :] if key else ""
    if key and rest.startswith("="):
        return "two equals signs", f"write {key[1]} = {rest[1:].strip()}"
    if key and (value := _BARE.match(rest)):
        return f"{value[0].strip()} is no value of TOML", f'write {key[1]} = "{value[0].strip()}"'
    return None


def deepest_line(text: str) -> int:
    """The line, from 1, where brackets first are as deep within each other as anywhere in a TOML text."""
    depth = deepest = line = 0
    for number, written in enumerate(text.splitlines(), start=1):
        for letter in written:
            depth += (letter in "[{") - (letter in "]}")
            if depth > deepest:
                deepest, line = depth, number
    return line


def innermost(errors: list[ErrorDetails]) -> list[ErrorDetails]:
    """Errors, none of which only follows from another: a list is called too short when its members are wrong."""
    paths = [error["loc"] for error in errors]
    return [error for error in errors if not any(path[: len(error["loc"])] == error["loc"] != path for path in paths)]


def in_words(file: Path, lines: Mapping[KeyPath, int], error: ErrorDetails) -> Notice:
    """A finding of pydantic in our form."""
    path: KeyPath = tuple(part for part in error["loc"] if part not in _NO_KEYS)
    place = where(file, lines, path)
    wanted = _at(path)[1]
    match error["type"]:
        case "extra_forbidden" if path[0] == "masters" and str(path[-1]).lower() in _IMAGE_ENDINGS:
            name = ".".join(map(str, path[1:]))
            return Notice(Kind.PLAN, place, "a name with a point is not quoted", f'write [masters."{name}"]')
        case "extra_forbidden":
            return Notice(Kind.PLAN, place, "unknown key", _instead(str(path[-1]), _keys(_at(path[:-1])[0])))
        case "string_pattern_mismatch" if error["loc"][-1:] == ("[key]",):
            return Notice(Kind.PLAN, place, "cannot be a name here", f"write {schema.KEY_FORMS[str(path[0])]}")
        case "missing":
            return Notice(Kind.PLAN, place, "is missing", f"write {wanted}")
    return Notice(Kind.PLAN, place, f"got {_as_toml(error['input'])}", f"write {wanted}")


def _instead(key: str, keys: list[str]) -> str:
    """The cure for an unknown key: its name of today, or the nearest one."""
    now = "matte" if key == "background" and "use" not in keys else _RENAMED.get(key)
    return f"it is called {now} now" if now and now.split()[0] in keys else nearest(key, keys)


def _at(path: KeyPath) -> tuple[type[BaseModel], str]:
    """The innermost table of the schema on a path, and the description of the last key on it."""
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


def _as_toml(value: Any) -> str:  # noqa: ANN401 - anything that the user wrote
    if isinstance(value, bool):
        return str(value).lower()
    if isinstance(value, dict):
        return (
            shortened(f"{{ {', '.join(f'{key} = {_as_toml(one)}' for key, one in value.items())} }}") if value else "{}"
        )
    return f'"{shortened(value)}"' if isinstance(value, str) else shortened(str(value))
