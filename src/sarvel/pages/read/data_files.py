"""Images that front matter and data files name: values by their path, as the plan's [data] gives it.

"content/*.md" = { hero = "image", card = ["gallery[].src", "related[].photo"] }
"""

from __future__ import annotations

import json
import re
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sarvel.core.html.front_matter import front_matter_end
from sarvel.errors import PageError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.expression import expression
from sarvel.pages.read.local_files import path_of
from sarvel.pages.read.page_files import master_named, read_text
from sarvel.pages.read.project import Project

_STEP = re.compile(r"([^.\[\]]+)((?:\[\])*)")


@dataclass(frozen=True)
class NamedValue:
    """A value that names a master.

    Attributes:
        said: as it is in the file.
        key: of the master.
        place: file and path, for messages.
    """

    slot: str
    said: str
    key: str
    place: str


def named_values(
    file: Path, paths: Mapping[str, Sequence[str]], project: Project, masters_folder: Path, faults: list[Notice]
) -> Iterator[NamedValue]:
    """The values of a file that name masters.

    Args:
        paths: paths of values, by the slot that they are for.
        faults: values that name no master are added.

    Raises:
        PageError: the file cannot be read.
    """
    content = _content(file)
    for slot, said in paths.items():
        for path in said:
            for value in _values(content, _steps(path)):
                if path_of(value) is None:
                    continue  # an image from elsewhere
                words = expression(value, "")
                key = master_named(words, file, project, masters_folder) if words else None
                place = f"{file}: {path}"
                if key:
                    yield NamedValue(slot, value, key, place)
                else:
                    cure = "write the path of a file in the masters folder"
                    faults.append(Notice(Kind.PAGE, place, f"'{value}' names no master", cure))


def _steps(path: str) -> list[str]:
    """The names on a path; "[]" for all members of a list."""
    steps = []
    for part in path.split("."):
        found = _STEP.fullmatch(part)
        if found:
            steps += [found[1], *(["[]"] * (len(found[2]) // 2))]
    return steps


def _values(content: Any, steps: Sequence[str]) -> Iterator[str]:  # noqa: ANN401 - parsed data
    if not steps:
        yield from [content] if isinstance(content, str) and content else []
    elif steps[0] == "[]":
        for one in content if isinstance(content, list) else ():
            yield from _values(one, steps[1:])
    elif isinstance(content, dict) and steps[0] in content:
        yield from _values(content[steps[0]], steps[1:])


def _content(file: Path) -> Any:  # noqa: ANN401 - parsed data
    """What a data file says, or the front matter of another file; nothing if it has none."""
    text = read_text(file).text
    form = file.suffix.lower()
    if form not in (".json", ".toml", ".yaml", ".yml"):
        end = front_matter_end(text)
        form = ".toml" if text.startswith("+++") else ".yaml"
        text = text[:end].strip().strip("+-") if end else ""
    try:
        if form == ".json":
            return json.loads(text)
        if form == ".toml":
            return tomllib.loads(text)
        return _yaml(text)
    except (ValueError, RecursionError) as error:
        what = str(error).splitlines()[0] if str(error) else "it is nested too deep"
        raise PageError.at(file, f"its data cannot be read: {what}", "correct it") from error


def _yaml(text: str) -> Any:  # noqa: ANN401 - parsed data
    import yaml  # few plans need it

    try:
        return yaml.safe_load(text)
    except yaml.YAMLError as error:
        raise ValueError(" ".join(str(error).split())) from error
